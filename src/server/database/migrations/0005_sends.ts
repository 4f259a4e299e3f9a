import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE sends (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    announcement_id BIGINT UNSIGNED NOT NULL,
    version_id BIGINT UNSIGNED NOT NULL,
    created_by BIGINT UNSIGNED NOT NULL,
    plan JSON NOT NULL,
    idempotency_key VARCHAR(80) CHARACTER SET ascii NOT NULL,
    created_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    UNIQUE KEY send_once (created_by, idempotency_key),
    INDEX sends_of (announcement_id),
    FOREIGN KEY (announcement_id) REFERENCES announcements (id),
    FOREIGN KEY (version_id) REFERENCES announcement_versions (id),
    FOREIGN KEY (created_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE occurrences (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    send_id BIGINT UNSIGNED NOT NULL,
    sequence INT UNSIGNED NOT NULL COMMENT 'first is 1',
    state ENUM('scheduled', 'going out', 'sent', 'recalled', 'failed') NOT NULL DEFAULT 'scheduled',
    due_at DATETIME(3) NOT NULL COMMENT 'when the first of it is due',
    sent_at DATETIME(3) NULL COMMENT 'when the last of it had gone',
    deadline_at DATETIME(3) NULL COMMENT 'of its ask',
    failure VARCHAR(500) NULL COMMENT 'why none of it could go out',
    UNIQUE KEY planned_once (send_id, sequence),
    INDEX occurrences_by_due (due_at),
    INDEX occurrences_by_state (state, due_at),
    FOREIGN KEY (send_id) REFERENCES sends (id)
  ) ${UNICODE}`);
  // One bucket a zone where a send goes by each reader's own clock; a single one with zone '' otherwise.
  await db.raw(`CREATE TABLE buckets (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    occurrence_id BIGINT UNSIGNED NOT NULL,
    zone VARCHAR(64) CHARACTER SET ascii NOT NULL DEFAULT '',
    due_at DATETIME(3) NOT NULL,
    state ENUM('planned', 'expanding', 'expanded', 'recalled', 'failed') NOT NULL DEFAULT 'planned',
    lease_owner VARCHAR(64) CHARACTER SET ascii NULL,
    lease_until DATETIME(3) NULL,
    attempts INT UNSIGNED NOT NULL DEFAULT 0,
    expanded_to BIGINT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'the last person id looked at, to go on from after a crash',
    UNIQUE KEY bucket_once (occurrence_id, zone),
    INDEX buckets_by_due (state, due_at),
    FOREIGN KEY (occurrence_id) REFERENCES occurrences (id)
  ) ${UNICODE}`);
  // The primary key is the promise that nobody gets the same thing twice. No foreign keys: a hundred thousand rows
  // are written in one statement from tables that are never deleted from.
  await db.raw(`CREATE TABLE deliveries (
    occurrence_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    method ENUM('inbox', 'mail') NOT NULL,
    state ENUM('waiting', 'sending', 'delivered', 'failed') NOT NULL,
    due_at DATETIME(3) NOT NULL,
    went_at DATETIME(3) NULL,
    late_ms INT AS (TIMESTAMPDIFF(MICROSECOND, due_at, went_at) DIV 1000) PERSISTENT,
    try_at DATETIME(3) NULL COMMENT 'waiting: next attempt; sending: when the claim ends',
    claimed_by VARCHAR(64) CHARACTER SET ascii NULL,
    attempts SMALLINT UNSIGNED NOT NULL DEFAULT 0,
    reason VARCHAR(300) NULL COMMENT 'of the last failed attempt',
    PRIMARY KEY (occurrence_id, person_id, method),
    INDEX deliveries_of_person (person_id, method, went_at),
    INDEX deliveries_to_try (state, try_at)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE posts (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    board_id BIGINT UNSIGNED NOT NULL,
    version_id BIGINT UNSIGNED NOT NULL,
    occurrence_id BIGINT UNSIGNED NULL COMMENT 'null where a member wrote straight to the board',
    author_id BIGINT UNSIGNED NOT NULL,
    posted_at DATETIME(3) NOT NULL,
    pinned_at DATETIME(3) NULL,
    pinned_by BIGINT UNSIGNED NULL,
    idempotency_key VARCHAR(80) CHARACTER SET ascii NULL,
    UNIQUE KEY posted_once (occurrence_id, board_id),
    UNIQUE KEY written_once (author_id, idempotency_key),
    INDEX posts_of_board (board_id, posted_at, id),
    INDEX pinned_of_board (board_id, pinned_at),
    FOREIGN KEY (board_id) REFERENCES boards (id),
    FOREIGN KEY (version_id) REFERENCES announcement_versions (id),
    FOREIGN KEY (occurrence_id) REFERENCES occurrences (id),
    FOREIGN KEY (author_id) REFERENCES people (id),
    FOREIGN KEY (pinned_by) REFERENCES people (id)
  ) ${UNICODE}`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE posts, deliveries, buckets, occurrences, sends');
}
