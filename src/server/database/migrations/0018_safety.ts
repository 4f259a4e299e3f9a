import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE set_aside (
    kind ENUM('closing', 'list', 'joiners', 'planning', 'sending', 'notice') NOT NULL,
    subject_id BIGINT UNSIGNED NOT NULL,
    occurrence_id BIGINT UNSIGNED NULL COMMENT 'the send it belongs to, where it belongs to one',
    reason VARCHAR(300) NOT NULL,
    attempts SMALLINT UNSIGNED NOT NULL DEFAULT 1,
    try_at DATETIME(3) NOT NULL,
    given_up_at DATETIME(3) NULL,
    PRIMARY KEY (kind, subject_id)
  ) ${UNICODE} COMMENT 'work of the engine that failed by an error of its own, with when it is tried again'`);
  await db.raw(`CREATE TABLE idempotency_keys (
    person_id BIGINT UNSIGNED NOT NULL,
    key_hash BINARY(32) NOT NULL,
    request_hash BINARY(32) NOT NULL COMMENT 'method, path and body it was first used with',
    used_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    PRIMARY KEY (person_id, key_hash),
    INDEX idempotency_keys_by_age (used_at),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  )`);
  // What is pushed to a device ends with the session it was connected in.
  await db.raw(`ALTER TABLE devices
    ADD COLUMN session_hash BINARY(32) NULL,
    ADD FOREIGN KEY (session_hash) REFERENCES sessions (token_hash) ON DELETE CASCADE`);
  await db.raw(`CREATE TABLE upload_cuts (
    upload_key CHAR(22) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    cut VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    mime VARCHAR(40) CHARACTER SET ascii NOT NULL,
    bytes MEDIUMBLOB NOT NULL,
    PRIMARY KEY (upload_key, cut),
    FOREIGN KEY (upload_key) REFERENCES uploads (upload_key) ON DELETE CASCADE
  ) COMMENT 'images as they are shown, each cut once'`);
  await db.raw(`ALTER TABLE boards
    ADD COLUMN passing BOOLEAN NOT NULL DEFAULT TRUE COMMENT 'whether its posts may be passed on to other boards'`);
  await db.raw("UPDATE boards SET passing = (posting <> 'held')");
  await db.raw(`ALTER TABLE occurrences
    ADD COLUMN taken_back_at DATETIME(3) NULL COMMENT 'since when nothing more of it goes out'`);
  // Its table was made by the package in a character set that does not hold every address; it is made again.
  await db.raw('DROP TABLE IF EXISTS rate_limits');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE upload_cuts, idempotency_keys, set_aside');
}
