import type { Knex } from 'knex';

const LOOKED_AT = 'station_id, standing, first_in_at';

export async function up(db: Knex): Promise<void> {
  // The weights of letters (Unicode Collation Algorithm), two bytes each: alike for letters that differ by accents or size, and
  // looked through byte by byte, which takes a quarter of the time that comparing texts does.
  await db.raw(`ALTER TABLE people
    ADD COLUMN letters VARBINARY(900) AS (LEFT(WEIGHT_STRING(CONCAT(name, ' ', COALESCE(mail, ''))), 900)) STORED
      COMMENT 'what they are found by',
    DROP INDEX people_sought,
    ADD INDEX people_sought (linked_to, erased_at, sorted, id, letters, ${LOOKED_AT})`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE people
    DROP INDEX people_sought,
    ADD INDEX people_sought (linked_to, erased_at, sorted, id, name, mail, ${LOOKED_AT}),
    DROP COLUMN letters`);
}
