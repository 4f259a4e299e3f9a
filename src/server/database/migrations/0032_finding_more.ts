import type { Knex } from 'knex';

const KINDS = "ENUM('announcement', 'post', 'reply', 'answer', 'link', 'check-in')";
const BEFORE = "ENUM('announcement', 'post', 'reply', 'answer')";

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE findables MODIFY COLUMN kind ${KINDS} NOT NULL`);
  await db.raw(`ALTER TABLE postings MODIFY COLUMN kind ${KINDS} NOT NULL`);
  // A number of its own, by which what somebody said can be found.
  await db.raw(
    'ALTER TABLE check_ins ADD COLUMN id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT, ADD UNIQUE KEY check_ins_by_id (id)',
  );
  await db.raw(`CREATE TABLE archived_files (
    board_id BIGINT UNSIGNED NOT NULL,
    upload_key CHAR(22) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    archived_by BIGINT UNSIGNED NOT NULL,
    archived_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    PRIMARY KEY (board_id, upload_key),
    FOREIGN KEY (board_id) REFERENCES boards (id) ON DELETE CASCADE
  ) COMMENT 'files of a board that are listed apart; they stay where they were posted'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE archived_files');
  await db.raw('ALTER TABLE check_ins DROP COLUMN id');
  await db.raw("DELETE FROM postings WHERE kind IN ('link', 'check-in')");
  await db.raw("DELETE FROM findables WHERE kind IN ('link', 'check-in')");
  await db.raw(`ALTER TABLE postings MODIFY COLUMN kind ${BEFORE} NOT NULL`);
  await db.raw(`ALTER TABLE findables MODIFY COLUMN kind ${BEFORE} NOT NULL`);
}
