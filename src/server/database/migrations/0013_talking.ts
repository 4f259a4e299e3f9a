import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE posts
    ADD COLUMN state ENUM('up', 'held', 'returned', 'declined', 'hidden', 'deleted') NOT NULL DEFAULT 'up',
    ADD COLUMN decided_by BIGINT UNSIGNED NULL,
    ADD COLUMN decided_at DATETIME(3) NULL,
    ADD COLUMN word VARCHAR(600) NULL COMMENT 'what the moderator said to it',
    ADD COLUMN locked_at DATETIME(3) NULL COMMENT 'since when it takes no replies',
    ADD COLUMN edited_at DATETIME(3) NULL,
    ADD COLUMN pin_place INT NULL,
    ADD COLUMN pin_until DATETIME(3) NULL,
    ADD COLUMN origin_id BIGINT UNSIGNED NULL COMMENT 'the post it was passed on from',
    ADD COLUMN replies INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'those that are up',
    DROP KEY posts_of_board,
    ADD INDEX posts_of_board (board_id, state, posted_at, id),
    ADD INDEX posts_of_author (author_id, state, id),
    ADD INDEX posts_by_state (state, board_id),
    ADD FOREIGN KEY (origin_id) REFERENCES posts (id)`);
  await db.raw('UPDATE posts SET pin_place = id WHERE pinned_at IS NOT NULL');
  await db.raw(`CREATE TABLE replies (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    post_id BIGINT UNSIGNED NOT NULL,
    author_id BIGINT UNSIGNED NOT NULL,
    document JSON NOT NULL,
    files JSON NOT NULL,
    state ENUM('up', 'hidden', 'deleted') NOT NULL DEFAULT 'up',
    decided_by BIGINT UNSIGNED NULL,
    word VARCHAR(600) NULL COMMENT 'what the moderator said to it',
    written_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    edited_at DATETIME(3) NULL,
    idempotency_key VARCHAR(80) CHARACTER SET ascii NOT NULL,
    UNIQUE KEY replied_once (author_id, idempotency_key),
    INDEX replies_of_post (post_id, id),
    FOREIGN KEY (post_id) REFERENCES posts (id),
    FOREIGN KEY (author_id) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE earlier_replies (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    reply_id BIGINT UNSIGNED NOT NULL,
    document JSON NOT NULL,
    kept_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    INDEX earlier_of_reply (reply_id, id),
    FOREIGN KEY (reply_id) REFERENCES replies (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  // Counted when they are read: a counter in the post would be one row that two hundred readers wait for.
  await db.raw(`CREATE TABLE reactions (
    subject ENUM('post', 'reply', 'occurrence') NOT NULL,
    subject_id BIGINT UNSIGNED NOT NULL,
    kind ENUM('glad', 'heard', 'help', 'wonder', 'weight') NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    PRIMARY KEY (subject, subject_id, kind, person_id)
  )`);
  await db.raw(`CREATE TABLE reports (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    subject ENUM('post', 'reply') NOT NULL,
    subject_id BIGINT UNSIGNED NOT NULL,
    board_id BIGINT UNSIGNED NOT NULL,
    reporter_id BIGINT UNSIGNED NOT NULL,
    reason VARCHAR(600) NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    settled_at DATETIME(3) NULL,
    settled_by BIGINT UNSIGNED NULL,
    UNIQUE KEY reported_once (subject, subject_id, reporter_id),
    INDEX reports_of_board (board_id, settled_at),
    FOREIGN KEY (board_id) REFERENCES boards (id),
    FOREIGN KEY (reporter_id) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE board_marks (
    person_id BIGINT UNSIGNED NOT NULL,
    board_id BIGINT UNSIGNED NOT NULL,
    read_to DATETIME(3) NOT NULL COMMENT 'posts up to here have been seen',
    PRIMARY KEY (person_id, board_id)
  )`);
  await db.raw(`CREATE TABLE post_reads (
    person_id BIGINT UNSIGNED NOT NULL,
    post_id BIGINT UNSIGNED NOT NULL,
    PRIMARY KEY (person_id, post_id)
  ) COMMENT 'opened one by one, beyond the mark of the board'`);
  await db.raw(`CREATE TABLE follows (
    subject ENUM('board', 'post') NOT NULL,
    subject_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    choice ENUM('follow', 'mute') NOT NULL,
    PRIMARY KEY (subject, subject_id, person_id),
    INDEX follows_of_person (person_id, subject, choice)
  )`);
  await db.raw(
    "ALTER TABLE people ADD COLUMN looked_at DATETIME(3) NULL COMMENT 'when they last looked at what is for them'",
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE follows, post_reads, board_marks, reports, reactions, earlier_replies, replies');
}
