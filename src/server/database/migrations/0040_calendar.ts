import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';
const BEFORE = `'mention', 'reply', 'post', 'held', 'decision', 'report', 'thanks', 'shelf', 'announcement', 'outcome', 'group'`;

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE calendar_sessions (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    title VARCHAR(160) NOT NULL,
    text VARCHAR(2000) NOT NULL,
    wall CHAR(16) NOT NULL COMMENT 'the first day it may take place, and the hour, on the clock of its zone',
    zone VARCHAR(64) NOT NULL,
    minutes SMALLINT UNSIGNED NOT NULL,
    place VARCHAR(200) NOT NULL,
    link VARCHAR(2000) NOT NULL,
    rule JSON NULL COMMENT 'how it recurs; null for once',
    audience JSON NOT NULL,
    capacity INT UNSIGNED NULL,
    remind_minutes SMALLINT UNSIGNED NULL,
    revision INT UNSIGNED NOT NULL DEFAULT 1,
    laid_to DATETIME(3) NOT NULL COMMENT 'up to when its dates are laid out',
    called_off_at DATETIME(3) NULL,
    made_by BIGINT UNSIGNED NULL,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    INDEX calendar_sessions_to_lay (called_off_at, laid_to),
    FOREIGN KEY (made_by) REFERENCES people (id) ON DELETE SET NULL
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE session_dates (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    session_id BIGINT UNSIGNED NOT NULL,
    meant CHAR(16) NOT NULL COMMENT 'the wall-clock time its rule gives',
    starts_at DATETIME(3) NOT NULL,
    minutes SMALLINT UNSIGNED NOT NULL,
    place VARCHAR(200) NOT NULL,
    link VARCHAR(2000) NOT NULL,
    note VARCHAR(300) NOT NULL DEFAULT '',
    own BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'whether it was changed by itself, and no longer follows the session',
    sequence INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'RFC 5545 SEQUENCE',
    called_off BOOLEAN NOT NULL DEFAULT FALSE,
    remind_at DATETIME(3) NULL,
    reminded BOOLEAN NOT NULL DEFAULT FALSE,
    UNIQUE INDEX session_dates_meant (session_id, meant),
    INDEX session_dates_start (starts_at, id),
    INDEX session_dates_remind (reminded, remind_at),
    FOREIGN KEY (session_id) REFERENCES calendar_sessions (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE session_answers (
    date_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    stands ENUM('yes', 'waiting', 'perhaps', 'no') NOT NULL,
    said_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    via ENUM('page', 'mail') NOT NULL DEFAULT 'page',
    PRIMARY KEY (date_id, person_id),
    INDEX session_answers_standing (date_id, stands, said_at),
    INDEX session_answers_person (person_id),
    INDEX session_answers_waiting (stands, date_id),
    FOREIGN KEY (date_id) REFERENCES session_dates (id) ON DELETE CASCADE,
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw('ALTER TABLE people ADD COLUMN sessions_key BINARY(32) NULL UNIQUE');
  await db.raw(`ALTER TABLE boards
    ADD COLUMN date_of BIGINT UNSIGNED NULL UNIQUE COMMENT 'made for those who come to this date of the calendar',
    ADD CONSTRAINT boards_date_of FOREIGN KEY (date_of) REFERENCES session_dates (id) ON DELETE SET NULL`);
  for (const table of ['notices', 'notice_choices'])
    await db.raw(`ALTER TABLE ${table} MODIFY COLUMN kind ENUM(${BEFORE}, 'session') NOT NULL`);
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['notices', 'notice_choices']) {
    await db.raw(`DELETE FROM ${table} WHERE kind = 'session'`);
    await db.raw(`ALTER TABLE ${table} MODIFY COLUMN kind ENUM(${BEFORE}) NOT NULL`);
  }
  await db.raw('ALTER TABLE boards DROP FOREIGN KEY boards_date_of, DROP COLUMN date_of');
  await db.raw('ALTER TABLE people DROP COLUMN sessions_key');
  for (const table of ['session_answers', 'session_dates', 'calendar_sessions'])
    await db.raw(`DROP TABLE ${table}`);
}
