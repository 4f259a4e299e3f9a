import type { Knex } from 'knex';

/** The organisation is taken out behind the page: how far it is, and the archive in parts until it is fetched. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE takeouts (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    made_by BIGINT UNSIGNED NOT NULL,
    state ENUM('under way', 'ready', 'failed') NOT NULL DEFAULT 'under way',
    name VARCHAR(300) NOT NULL DEFAULT '',
    done BIGINT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'of what is to be read: rows, texts and files',
    total BIGINT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'as estimated',
    bytes BIGINT UNSIGNED NOT NULL DEFAULT 0,
    begun_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    beat_at DATETIME(3) NOT NULL DEFAULT NOW(3) COMMENT 'when whoever makes it last said so',
    ended_at DATETIME(3) NULL,
    why VARCHAR(300) NULL COMMENT 'of one that failed',
    INDEX takeouts_state (state),
    FOREIGN KEY (made_by) REFERENCES people (id)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
  await db.raw(`CREATE TABLE takeout_parts (
    takeout_id BIGINT UNSIGNED NOT NULL,
    n INT UNSIGNED NOT NULL,
    bytes MEDIUMBLOB NOT NULL,
    PRIMARY KEY (takeout_id, n),
    FOREIGN KEY (takeout_id) REFERENCES takeouts (id) ON DELETE CASCADE
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE takeout_parts');
  await db.raw('DROP TABLE takeouts');
}
