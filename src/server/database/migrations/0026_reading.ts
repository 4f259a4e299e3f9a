import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE post_reads
    ADD COLUMN read_at DATETIME(3) NOT NULL DEFAULT NOW(3) COMMENT 'when it was first on their screen, or opened',
    ADD INDEX reads_of_post (post_id, read_at),
    COMMENT 'read one by one, beyond the mark of the board'`);
  await db.raw('ALTER TABLE people DROP COLUMN looked_at');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE post_reads DROP INDEX reads_of_post, DROP COLUMN read_at');
  await db.raw('ALTER TABLE people ADD COLUMN looked_at DATETIME(3) NULL');
}
