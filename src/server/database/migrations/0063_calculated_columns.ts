import type { Knex } from 'knex';

/** Columns of record sheets that are calculated, and who sees and changes a sheet. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE sheets
    ADD COLUMN calculate_after BIGINT UNSIGNED NULL COMMENT 'records after this id are still to be calculated anew; null where none is',
    ADD COLUMN seen_by ENUM('desk', 'named') NOT NULL DEFAULT 'desk' COMMENT 'everybody at the desk, or coordinators and who is named',
    ADD INDEX sheets_to_calculate (calculate_after)`);
  await db.raw(`CREATE TABLE sheet_people (
    sheet_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL,
    may_change BOOLEAN NOT NULL COMMENT 'whether they change its records, or only see them',
    PRIMARY KEY (sheet_id, person_id),
    FOREIGN KEY (sheet_id) REFERENCES sheets (id) ON DELETE CASCADE,
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  ) COMMENT 'who sees or changes a record sheet beside coordinators'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE sheet_people');
  await db.raw(
    'ALTER TABLE sheets DROP INDEX sheets_to_calculate, DROP COLUMN calculate_after, DROP COLUMN seen_by',
  );
}
