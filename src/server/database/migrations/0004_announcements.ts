import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE announcements (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    author_id BIGINT UNSIGNED NOT NULL,
    state ENUM('draft', 'committed') NOT NULL DEFAULT 'draft' COMMENT 'committed: a send of it is under way or done',
    content JSON NOT NULL,
    plan JSON NOT NULL,
    revision INT UNSIGNED NOT NULL DEFAULT 1 COMMENT 'rises with every save, so that nobody overwrites unseen',
    saved_by BIGINT UNSIGNED NOT NULL,
    saved_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    created_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    INDEX drafts_by_author (state, author_id, saved_at),
    FOREIGN KEY (author_id) REFERENCES people (id),
    FOREIGN KEY (saved_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE announcement_versions (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    announcement_id BIGINT UNSIGNED NOT NULL,
    author_id BIGINT UNSIGNED NOT NULL COMMENT 'who wrote this version',
    kind ENUM('sent', 'overwritten') NOT NULL COMMENT 'frozen because it goes out, or kept because somebody saved over it',
    title VARCHAR(200) NOT NULL,
    byline VARCHAR(160) NOT NULL,
    importance ENUM('routine', 'important', 'urgent') NOT NULL,
    document JSON NOT NULL,
    button_label VARCHAR(80) NULL,
    button_url VARCHAR(2000) NULL,
    excerpt VARCHAR(400) NOT NULL,
    created_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    INDEX versions_of (announcement_id, kind, id),
    FOREIGN KEY (announcement_id) REFERENCES announcements (id) ON DELETE CASCADE,
    FOREIGN KEY (author_id) REFERENCES people (id)
  ) ${UNICODE}`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE announcement_versions, announcements');
}
