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
    INDEX findables_by_time (at),
    INDEX findables_of_board (board_id, at),
    INDEX findables_by_author (author_id, at),
    INDEX findables_by_category (category, at)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci COMMENT 'what can be searched, written with what it stands for'`);
  await db.raw(`CREATE TABLE search_words (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    word VARCHAR(40) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL UNIQUE
  )`);
  // A word's places lie together, by kind and then by time, with all that a search is narrowed by: the latest of them are
  // read in one stretch and nothing else is looked at. The full-text index of InnoDB reads every place of a word before
  // it gives the first: a common word among 100,000 posts took 800 ms.
  await db.raw(`CREATE TABLE postings (
    word_id INT UNSIGNED NOT NULL,
    kind ENUM('announcement', 'post', 'reply', 'answer') NOT NULL,
    at DATETIME(3) NOT NULL,
    findable_id BIGINT UNSIGNED NOT NULL,
    place_id BIGINT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'the board; of an announcement the occurrence',
    author_id BIGINT UNSIGNED NOT NULL,
    weight TINYINT UNSIGNED NOT NULL COMMENT 'how much the word says about it: more in a title, more where it comes again',
    PRIMARY KEY (word_id, kind, at, findable_id),
    INDEX postings_of_findable (findable_id)
  )`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE postings, search_words, findables');
}
