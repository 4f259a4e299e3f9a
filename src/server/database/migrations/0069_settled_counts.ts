import type { Knex } from 'knex';

/** What the deliveries of an occurrence came to, written down once nothing of it is on its way, so that no look counts them again. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE occurrences
    ADD COLUMN settled_counts LONGTEXT CHARACTER SET ascii COLLATE ascii_bin NULL COMMENT 'what its deliveries came to, as JSON; null: they are to be counted',
    ADD COLUMN settled_changes INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'one more with each change of them'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE occurrences DROP COLUMN settled_counts, DROP COLUMN settled_changes');
}
