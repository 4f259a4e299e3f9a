import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE people
    ADD COLUMN sort_name VARCHAR(160) NOT NULL DEFAULT '' COMMENT 'by which they stand in lists; empty is by their name',
    ADD COLUMN greeting VARCHAR(80) NOT NULL DEFAULT '' COMMENT 'how to greet them; empty is by the first word of their name',
    ADD COLUMN sorted VARCHAR(160) AS (IF(sort_name = '', name, sort_name)) PERSISTENT,
    ADD INDEX people_by_sorting (sorted, id),
    ADD INDEX people_sought (linked_to, erased_at, sorted, id, name, mail, station_id, standing, first_in_at)`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(
    'ALTER TABLE people DROP INDEX people_by_sorting, DROP INDEX people_sought, DROP COLUMN sorted, DROP COLUMN sort_name, DROP COLUMN greeting',
  );
}
