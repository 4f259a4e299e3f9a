import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE ribbons (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(60) NOT NULL UNIQUE,
    emblem VARCHAR(20) CHARACTER SET ascii NOT NULL,
    colour VARCHAR(20) CHARACTER SET ascii NOT NULL,
    retired_at DATETIME(3) NULL
  ) ${UNICODE}`);
  await db.raw(`INSERT INTO ribbons (name, emblem, colour) VALUES
    ('Steady hands', 'hands', 'verdigris'), ('Long road', 'road', 'ochre'), ('Night lamp', 'lamp', 'slate'),
    ('Good question', 'question', 'bronze'), ('Open door', 'door', 'madder'), ('First shoot', 'shoot', 'verdigris')`);
  await db.raw(`CREATE TABLE thanks (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    ribbon_id BIGINT UNSIGNED NOT NULL,
    from_id BIGINT UNSIGNED NOT NULL,
    sentence VARCHAR(300) NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    post_id BIGINT UNSIGNED NULL UNIQUE COMMENT 'where it stands',
    INDEX thanks_by_time (at),
    FOREIGN KEY (ribbon_id) REFERENCES ribbons (id),
    FOREIGN KEY (from_id) REFERENCES people (id),
    FOREIGN KEY (post_id) REFERENCES posts (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE thanked (
    thanks_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    PRIMARY KEY (thanks_id, person_id),
    INDEX thanks_of_person (person_id, thanks_id),
    FOREIGN KEY (thanks_id) REFERENCES thanks (id) ON DELETE CASCADE,
    FOREIGN KEY (person_id) REFERENCES people (id)
  )`);
  await db.raw(`CREATE TABLE shelf_subjects (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    parent_id BIGINT UNSIGNED NULL,
    name VARCHAR(80) NOT NULL,
    UNIQUE KEY subject_once (parent_id, name),
    FOREIGN KEY (parent_id) REFERENCES shelf_subjects (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE shelf_answers (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    subject_id BIGINT UNSIGNED NOT NULL,
    question VARCHAR(200) NOT NULL,
    document JSON NOT NULL,
    occurrence_id BIGINT UNSIGNED NULL COMMENT 'the announcement that said it',
    published_at DATETIME(3) NULL COMMENT 'null: for those who asked, not yet for all',
    written_by BIGINT UNSIGNED NOT NULL,
    written_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    edited_at DATETIME(3) NULL,
    INDEX answers_of_subject (subject_id, published_at),
    FOREIGN KEY (subject_id) REFERENCES shelf_subjects (id),
    FOREIGN KEY (occurrence_id) REFERENCES occurrences (id),
    FOREIGN KEY (written_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE shelf_questions (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    person_id BIGINT UNSIGNED NOT NULL,
    text VARCHAR(300) NOT NULL,
    found SMALLINT UNSIGNED NOT NULL COMMENT 'how many answers were offered',
    state ENUM('helped', 'open', 'answered', 'closed') NOT NULL,
    answer_id BIGINT UNSIGNED NULL,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    settled_by BIGINT UNSIGNED NULL,
    word VARCHAR(600) NULL COMMENT 'what was said to it where it was closed without an answer',
    idempotency_key VARCHAR(80) CHARACTER SET ascii NOT NULL,
    UNIQUE KEY asked_once (person_id, idempotency_key),
    INDEX questions_by_state (state, at),
    INDEX questions_of_answer (answer_id),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE,
    FOREIGN KEY (answer_id) REFERENCES shelf_answers (id) ON DELETE SET NULL
  ) ${UNICODE}`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE shelf_questions, shelf_answers, shelf_subjects, thanked, thanks, ribbons');
}
