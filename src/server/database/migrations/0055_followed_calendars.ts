import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE followed_calendars (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL,
    url VARCHAR(2000) NULL COMMENT 'where it is read again and again; null for a file that was read once',
    every_minutes SMALLINT UNSIGNED NOT NULL,
    audience JSON NOT NULL COMMENT 'whom sessions of it are for that are new',
    remind_minutes SMALLINT UNSIGNED NULL,
    body MEDIUMTEXT NULL COMMENT 'what it said last, from which dates further ahead are laid out',
    etag VARCHAR(300) NULL,
    modified VARCHAR(100) NULL COMMENT 'Last-Modified as it was answered',
    warnings JSON NOT NULL,
    trouble VARCHAR(300) NULL,
    failures SMALLINT UNSIGNED NOT NULL DEFAULT 0,
    read_at DATETIME(3) NULL COMMENT 'when it was read last and understood',
    laid_at DATETIME(3) NULL COMMENT 'when its dates were laid out last',
    try_at DATETIME(3) NOT NULL COMMENT 'when it is read next; while it is read, when another may',
    revision INT UNSIGNED NOT NULL DEFAULT 1,
    made_by BIGINT UNSIGNED NULL,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    INDEX followed_calendars_due (try_at),
    FOREIGN KEY (made_by) REFERENCES people (id) ON DELETE SET NULL
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
  await db.raw(`ALTER TABLE calendar_sessions
    ADD COLUMN followed_id BIGINT UNSIGNED NULL COMMENT 'the calendar it comes from',
    ADD COLUMN followed_uid VARCHAR(500) NULL COMMENT 'its UID there (RFC 5545)',
    ADD CONSTRAINT calendar_sessions_followed FOREIGN KEY (followed_id) REFERENCES followed_calendars (id) ON DELETE SET NULL`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(
    'ALTER TABLE calendar_sessions DROP FOREIGN KEY calendar_sessions_followed, DROP COLUMN followed_id, DROP COLUMN followed_uid',
  );
  await db.raw('DROP TABLE followed_calendars');
}
