import type { Knex } from 'knex';

/** The columns of two indexes that hold all that counting an audience looks at. */
const BY_CLOCK =
  'linked_to, zone, quiet_from, quiet_to, standing, station_id, mail_stopped_at, mail, occupation, joined_on, role';
const BY_STANDING = 'linked_to, standing, joined_on, role, station_id';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE people
    ADD COLUMN guest_until DATE NULL COMMENT 'of a guest from outside: the last day, on their clock; null for those of the house',
    ADD COLUMN shown_name VARCHAR(170) AS (IF(guest_until IS NULL, name, CONCAT(name, ' (guest)'))) VIRTUAL
      COMMENT 'as they are named to others',
    DROP INDEX people_by_clock, ADD INDEX people_by_clock (${BY_CLOCK}, guest_until),
    DROP INDEX people_by_standing, ADD INDEX people_by_standing (${BY_STANDING}, guest_until),
    ADD INDEX people_guests (guest_until, standing)`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE people
    DROP INDEX people_guests,
    DROP INDEX people_by_clock, ADD INDEX people_by_clock (${BY_CLOCK}),
    DROP INDEX people_by_standing, ADD INDEX people_by_standing (${BY_STANDING}),
    DROP COLUMN shown_name, DROP COLUMN guest_until`);
}
