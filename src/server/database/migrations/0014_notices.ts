import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';
const KINDS = `ENUM('mention', 'reply', 'post', 'held', 'decision', 'report', 'thanks', 'shelf', 'announcement')`;

export async function up(db: Knex): Promise<void> {
  // The way of each method is kept in its own two columns, so that a claim is one search of one index.
  const way = (method: string): string => `
    ${method}_state ENUM('no', 'waiting', 'daily', 'sending', 'sent', 'failed') NOT NULL DEFAULT 'no',
    ${method}_try_at DATETIME(3) NULL COMMENT 'waiting: next attempt; sending: when the claim ends',
    ${method}_attempts SMALLINT UNSIGNED NOT NULL DEFAULT 0,
    ${method}_claim CHAR(16) CHARACTER SET ascii NULL,
    INDEX notices_to_${method} (${method}_state, ${method}_try_at),`;
  await db.raw(`CREATE TABLE notices (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    person_id BIGINT UNSIGNED NOT NULL,
    kind ${KINDS} NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    title VARCHAR(200) NOT NULL,
    text VARCHAR(400) NOT NULL,
    path VARCHAR(200) CHARACTER SET ascii NOT NULL,
    why VARCHAR(300) NOT NULL,
    about VARCHAR(80) CHARACTER SET ascii NOT NULL COMMENT 'what it is about, so that nobody is told twice',
    urgent BOOLEAN NOT NULL DEFAULT FALSE,
    in_inbox BOOLEAN NOT NULL,
    read_at DATETIME(3) NULL,
    ${way('mail')}
    ${way('push')}
    UNIQUE KEY told_once (person_id, about),
    INDEX notices_of_person (person_id, in_inbox, id),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE notice_choices (
    person_id BIGINT UNSIGNED NOT NULL,
    kind ${KINDS} NOT NULL,
    inbox BOOLEAN NOT NULL,
    mail ENUM('no', 'at once', 'daily') NOT NULL,
    push ENUM('no', 'at once', 'daily') NOT NULL,
    PRIMARY KEY (person_id, kind),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  )`);
  await db.raw(`CREATE TABLE devices (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    person_id BIGINT UNSIGNED NOT NULL,
    label VARCHAR(120) NOT NULL,
    endpoint VARCHAR(1000) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    endpoint_hash BINARY(32) NOT NULL UNIQUE,
    p256dh VARCHAR(120) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    auth VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    last_at DATETIME(3) NULL COMMENT 'when the push service last took something for it',
    INDEX devices_of_person (person_id),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(
    "ALTER TABLE people ADD COLUMN digest_at CHAR(5) CHARACTER SET ascii NOT NULL DEFAULT '17:00' COMMENT 'HH:MM on their clock'",
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE devices, notice_choices, notices');
}
