import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE \`groups\` (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(120) NOT NULL UNIQUE,
    kind ENUM('live', 'fixed') NOT NULL,
    rule JSON NULL COMMENT 'of a live group: an audience expression that names no group',
    CHECK ((kind = 'live') = (rule IS NOT NULL))
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE group_members (
    group_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    PRIMARY KEY (group_id, person_id),
    INDEX groups_by_member (person_id, group_id),
    FOREIGN KEY (group_id) REFERENCES \`groups\` (id) ON DELETE CASCADE,
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  )`);
  await db.raw(`CREATE TABLE editor_reach (
    person_id BIGINT UNSIGNED NOT NULL,
    group_id BIGINT UNSIGNED NOT NULL,
    PRIMARY KEY (person_id, group_id),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE,
    FOREIGN KEY (group_id) REFERENCES \`groups\` (id) ON DELETE CASCADE
  )`);
  await db.raw(`CREATE TABLE boards (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(120) NOT NULL UNIQUE,
    about VARCHAR(600) NOT NULL,
    group_id BIGINT UNSIGNED NULL COMMENT 'whose place it is; null is everybody',
    posting ENUM('moderators', 'members') NOT NULL,
    position INT NOT NULL DEFAULT 0,
    FOREIGN KEY (group_id) REFERENCES \`groups\` (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE board_moderators (
    board_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    PRIMARY KEY (board_id, person_id),
    INDEX boards_by_moderator (person_id, board_id),
    FOREIGN KEY (board_id) REFERENCES boards (id) ON DELETE CASCADE,
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  )`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE board_moderators, boards, editor_reach, group_members, `groups`');
}
