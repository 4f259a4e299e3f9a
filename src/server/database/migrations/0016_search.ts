import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE findables (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    kind ENUM('announcement', 'post', 'reply', 'answer') NOT NULL,
    subject_id BIGINT UNSIGNED NOT NULL,
    board_id BIGINT UNSIGNED NULL,
    occurrence_id BIGINT UNSIGNED NULL COMMENT 'of a post: what it shows, so that it is found once',
    author_id BIGINT UNSIGNED NOT NULL,
    category VARCHAR(80) NOT NULL DEFAULT '',
    at DATETIME(3) NOT NULL,
    asks BOOLEAN NOT NULL DEFAULT FALSE,
    title VARCHAR(200) NOT NULL,
    body TEXT NOT NULL,
    UNIQUE KEY found_once (kind, subject_id),
    INDEX findables_by_time (board_id, at),
    INDEX findables_by_author (author_id),
    INDEX findables_by_category (category),
    FULLTEXT KEY words (title, body)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci COMMENT 'what can be searched, written with what it stands for'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE findables');
}
