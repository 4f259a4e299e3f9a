import type { Knex } from 'knex';

const ID = 'BIGINT UNSIGNED NOT NULL';
const OF_DRAFT = 'FOREIGN KEY (announcement_id) REFERENCES announcements (id) ON DELETE CASCADE';
const OF_PERSON = 'FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE draft_readers (
    announcement_id ${ID}, person_id ${ID}, shared_by ${ID}, shared_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    PRIMARY KEY (announcement_id, person_id), ${OF_DRAFT}, ${OF_PERSON}
  ) COMMENT 'with whom a draft is shared for comments'`);
  await db.raw(`CREATE TABLE draft_openings (
    announcement_id ${ID}, person_id ${ID}, seen_at DATETIME(3) NOT NULL COMMENT 'when their page last said that it is open',
    PRIMARY KEY (announcement_id, person_id), ${OF_DRAFT}, ${OF_PERSON}
  ) COMMENT 'who has a draft open'`);
  await db.raw(
    "ALTER TABLE announcements ADD COLUMN review_asked BIGINT UNSIGNED NULL COMMENT 'who is asked to clear it; null is whoever may'",
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE announcements DROP COLUMN review_asked');
  await db.raw('DROP TABLE draft_openings');
  await db.raw('DROP TABLE draft_readers');
}
