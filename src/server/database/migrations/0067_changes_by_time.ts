import type { Knex } from 'knex';

/** What changed in records since an instant is found without reading every record of a sheet: for a replay of the past weeks. */
export async function up(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE record_changes ADD INDEX changes_by_time (changed_at, id)');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE record_changes DROP INDEX changes_by_time');
}
