import type { Knex } from 'knex';

const KINDS = "'closing', 'list', 'joiners', 'planning', 'sending', 'notice'";

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE events (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    position BIGINT UNSIGNED NULL UNIQUE COMMENT 'its place in the order in which events are followed up; null until it has one',
    kind VARCHAR(40) CHARACTER SET ascii NOT NULL,
    version TINYINT UNSIGNED NOT NULL,
    subject VARCHAR(60) CHARACTER SET ascii NOT NULL COMMENT 'what it is about: events of one subject are followed up in order',
    detail JSON NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    INDEX events_by_time (at),
    INDEX events_of_subject (subject, position)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci
    COMMENT 'what happened, written in the transaction in which it happened'`);
  await db.raw(`CREATE TABLE event_positions (
    name VARCHAR(20) CHARACTER SET ascii NOT NULL PRIMARY KEY,
    position BIGINT UNSIGNED NOT NULL DEFAULT 0
  ) COMMENT 'the last position given, and how far each consumer has followed'`);
  await db.raw("INSERT INTO event_positions (name) VALUES ('last'), ('finding'), ('telling')");
  await db.raw(`ALTER TABLE set_aside MODIFY kind ENUM(${KINDS}, 'finding', 'telling') NOT NULL`);
  await db.raw('DROP TABLE outbox');
}

export async function down(db: Knex): Promise<void> {
  await db.raw("DELETE FROM set_aside WHERE kind IN ('finding', 'telling')");
  await db.raw(`ALTER TABLE set_aside MODIFY kind ENUM(${KINDS}) NOT NULL`);
  await db.raw(`CREATE TABLE outbox (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    topic VARCHAR(80) CHARACTER SET ascii NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT NOW(3),
    INDEX outbox_by_time (at)
  ) COMMENT 'what happened, written in the transaction in which it happened'`);
  await db.raw('DROP TABLE event_positions, events');
}
