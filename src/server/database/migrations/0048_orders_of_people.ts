import type { Knex } from 'knex';

/** What else is looked at as the directory is listed, so that it is told from the index alone. */
const LOOKED_AT = 'standing, first_in_at';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE people
    ADD INDEX people_in_place (linked_to, erased_at, station_id, sorted, id, ${LOOKED_AT}),
    ADD INDEX people_in_trade (linked_to, erased_at, occupation, sorted, id, ${LOOKED_AT}),
    ADD INDEX people_as_joined (linked_to, erased_at, joined_on, id, ${LOOKED_AT})`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(
    'ALTER TABLE people DROP INDEX people_in_place, DROP INDEX people_in_trade, DROP INDEX people_as_joined',
  );
}
