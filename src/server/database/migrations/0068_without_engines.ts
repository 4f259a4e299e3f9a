import type { Knex } from 'knex';

/** Processes say of themselves in `processes` that they run (0061): nothing has read or written `engines` since. */
export async function up(db: Knex): Promise<void> {
  await db.raw('DROP TABLE engines');
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE engines (
    name VARCHAR(64) CHARACTER SET ascii PRIMARY KEY,
    started_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    beat_at DATETIME(3) NOT NULL,
    skew_ms INT NOT NULL COMMENT 'how far its own clock is ahead of the database',
    mail_paused_reason VARCHAR(300) NULL COMMENT 'why it is not handing over mail just now'
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
}
