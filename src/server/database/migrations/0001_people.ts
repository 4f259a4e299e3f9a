import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE organisation (
    id TINYINT UNSIGNED PRIMARY KEY DEFAULT 1 CHECK (id = 1),
    name VARCHAR(120) NOT NULL,
    zone VARCHAR(64) NOT NULL,
    demo BOOLEAN NOT NULL DEFAULT FALSE
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
  await db.raw(`CREATE TABLE stations (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(120) NOT NULL UNIQUE,
    zone VARCHAR(64) NOT NULL
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
  await db.raw(`CREATE TABLE people (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(160) NOT NULL,
    mail VARCHAR(254) NULL UNIQUE,
    role ENUM('coordinator', 'editor', 'member') NOT NULL DEFAULT 'member',
    standing ENUM('active', 'on leave', 'left') NOT NULL DEFAULT 'active',
    station_id BIGINT UNSIGNED NULL,
    occupation VARCHAR(80) NOT NULL DEFAULT '',
    zone VARCHAR(64) NOT NULL,
    joined_on DATE NOT NULL,
    left_at DATETIME(3) NULL,
    mail_stopped_at DATETIME(3) NULL COMMENT 'unsubscribed from mail that may be unsubscribed',
    INDEX people_by_station (station_id, standing),
    INDEX people_by_name (name),
    FOREIGN KEY (station_id) REFERENCES stations (id)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE people, stations, organisation');
}
