import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';
const BEFORE = `'mention', 'reply', 'post', 'held', 'decision', 'report', 'thanks', 'shelf', 'announcement', 'outcome'`;

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE \`groups\`
    ADD COLUMN joining ENUM('closed', 'asked', 'open') NOT NULL DEFAULT 'closed' COMMENT 'whether people come in and go out by themselves',
    ADD COLUMN owner_brings BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'whether its owner may bring in people who are not here yet',
    ADD COLUMN about VARCHAR(300) NOT NULL DEFAULT '' COMMENT 'what it is for, for whoever may join'`);
  await db.raw(`CREATE TABLE group_requests (
    group_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    words VARCHAR(300) NOT NULL DEFAULT '',
    asked_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    PRIMARY KEY (group_id, person_id),
    INDEX requests_of (person_id),
    FOREIGN KEY (group_id) REFERENCES \`groups\` (id) ON DELETE CASCADE,
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  for (const table of ['notices', 'notice_choices'])
    await db.raw(`ALTER TABLE ${table} MODIFY COLUMN kind ENUM(${BEFORE}, 'group') NOT NULL`);
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['notices', 'notice_choices']) {
    await db.raw(`DELETE FROM ${table} WHERE kind = 'group'`);
    await db.raw(`ALTER TABLE ${table} MODIFY COLUMN kind ENUM(${BEFORE}) NOT NULL`);
  }
  await db.raw('DROP TABLE group_requests');
  await db.raw('ALTER TABLE `groups` DROP COLUMN joining, DROP COLUMN owner_brings, DROP COLUMN about');
}
