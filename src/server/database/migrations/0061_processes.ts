import type { Knex } from 'knex';

/**
 * Who of web, engine and mail receiver runs, as each says of itself, and which backups were written. The table of engines stays for
 * processes of the version before, while they are replaced one by one; a later migration drops it.
 */
export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE processes (
    name VARCHAR(64) CHARACTER SET ascii PRIMARY KEY,
    kind ENUM('web', 'engine', 'mail-in') NOT NULL,
    host VARCHAR(64) NOT NULL,
    pid INT UNSIGNED NOT NULL,
    known INT UNSIGNED NOT NULL COMMENT 'how many migrations it knows: its version of the schema',
    started_at DATETIME(3) NOT NULL,
    beat_at DATETIME(3) NOT NULL,
    skew_ms INT NOT NULL COMMENT 'how far its own clock is ahead of the database',
    rss_bytes BIGINT UNSIGNED NOT NULL,
    held_up_ms INT UNSIGNED NOT NULL COMMENT 'how long its work was held up since it last said so, at the 99th percentile',
    mail_paused_reason VARCHAR(300) NULL COMMENT 'of an engine: why it is not handing over mail just now',
    INDEX processes_by_kind (kind, beat_at)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
  await db.raw(`CREATE TABLE backups (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    written_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    host VARCHAR(64) NOT NULL,
    file VARCHAR(300) NOT NULL,
    bytes BIGINT UNSIGNED NOT NULL,
    took_ms INT UNSIGNED NOT NULL
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE backups');
  await db.raw('DROP TABLE processes');
}
