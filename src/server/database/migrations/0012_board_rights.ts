import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE boards
    MODIFY COLUMN posting ENUM('moderators', 'held', 'members') NOT NULL,
    ADD COLUMN replying ENUM('nobody', 'moderators', 'members') NOT NULL DEFAULT 'members',
    ADD COLUMN reacting ENUM('nobody', 'members') NOT NULL DEFAULT 'members',
    ADD COLUMN pinning ENUM('moderators', 'members') NOT NULL DEFAULT 'moderators',
    ADD COLUMN mentioning ENUM('moderators', 'members') NOT NULL DEFAULT 'moderators' COMMENT 'who may call on everybody here',
    ADD COLUMN automations BOOLEAN NOT NULL DEFAULT TRUE COMMENT 'whether what recurs by itself may post',
    ADD COLUMN gateways BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'whether what comes in from outside may post',
    ADD COLUMN warns BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'tells how many a post reaches before it goes up',
    ADD COLUMN takes_thanks BOOLEAN NOT NULL DEFAULT FALSE,
    ADD COLUMN pin_limit TINYINT UNSIGNED NOT NULL DEFAULT 5,
    ADD COLUMN owner_id BIGINT UNSIGNED NULL COMMENT 'moderates always',
    ADD COLUMN archived_at DATETIME(3) NULL,
    ADD COLUMN session_of BIGINT UNSIGNED NULL UNIQUE COMMENT 'made for the participants of the event this occurrence tells of',
    ADD INDEX boards_by_owner (owner_id),
    ADD FOREIGN KEY (owner_id) REFERENCES people (id),
    ADD FOREIGN KEY (session_of) REFERENCES occurrences (id)`);
  await db.raw(`CREATE TABLE board_links (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    board_id BIGINT UNSIGNED NOT NULL,
    place SMALLINT UNSIGNED NOT NULL,
    label VARCHAR(120) NOT NULL,
    url VARCHAR(2000) NOT NULL COMMENT 'an address, or the path of an upload',
    INDEX links_of_board (board_id, place),
    FOREIGN KEY (board_id) REFERENCES boards (id) ON DELETE CASCADE
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE board_links');
}
