import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

/** Patterns, from which places are made: each with its versions, the places made from it, and what their parts came to be. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE patterns (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL,
    about VARCHAR(600) NOT NULL,
    number INT UNSIGNED NOT NULL COMMENT 'the version that holds',
    board_id BIGINT UNSIGNED NULL COMMENT 'the place it is taken from; null where that is gone',
    UNIQUE KEY pattern_named (name),
    FOREIGN KEY (board_id) REFERENCES boards (id) ON DELETE SET NULL
  ) ${UNICODE} COMMENT 'patterns, from which places are made'`);
  await db.raw(`CREATE TABLE pattern_versions (
    pattern_id BIGINT UNSIGNED NOT NULL,
    number INT UNSIGNED NOT NULL,
    document LONGTEXT NOT NULL CHECK (JSON_VALID(document)),
    made_by BIGINT UNSIGNED NOT NULL,
    made_at DATETIME(3) NOT NULL,
    PRIMARY KEY (pattern_id, number),
    FOREIGN KEY (pattern_id) REFERENCES patterns (id) ON DELETE CASCADE,
    FOREIGN KEY (made_by) REFERENCES people (id)
  ) ${UNICODE} COMMENT 'what patterns said and say'`);
  await db.raw(`CREATE TABLE pattern_places (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    pattern_id BIGINT UNSIGNED NOT NULL,
    number INT UNSIGNED NOT NULL COMMENT 'the version whose changes it has',
    name VARCHAR(120) NOT NULL,
    answers LONGTEXT NOT NULL CHECK (JSON_VALID(answers)),
    made_by BIGINT UNSIGNED NOT NULL,
    made_at DATETIME(3) NOT NULL,
    INDEX places_of_pattern (pattern_id, id),
    FOREIGN KEY (pattern_id, number) REFERENCES pattern_versions (pattern_id, number) ON DELETE CASCADE,
    FOREIGN KEY (made_by) REFERENCES people (id)
  ) ${UNICODE} COMMENT 'places that were made from patterns'`);
  await db.raw(`CREATE TABLE pattern_place_parts (
    place_id BIGINT UNSIGNED NOT NULL,
    kind VARCHAR(12) CHARACTER SET ascii NOT NULL,
    part_id BIGINT UNSIGNED NOT NULL COMMENT 'its id in the pattern',
    made_id BIGINT UNSIGNED NOT NULL COMMENT 'its id here',
    PRIMARY KEY (place_id, kind, part_id),
    INDEX parts_made (kind, made_id),
    FOREIGN KEY (place_id) REFERENCES pattern_places (id) ON DELETE CASCADE
  ) ${UNICODE} COMMENT 'what the parts of a place came to be'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE pattern_place_parts, pattern_places, pattern_versions, patterns');
}
