import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE person_addresses (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    person_id BIGINT UNSIGNED NOT NULL,
    mail VARCHAR(254) NOT NULL,
    UNIQUE KEY one_address_one_person (mail),
    INDEX addresses_of_person (person_id),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci
    COMMENT 'addresses somebody has besides the one that mail goes to'`);
  await db.raw(`ALTER TABLE people
    ADD COLUMN merged_into BIGINT UNSIGNED NULL COMMENT 'whose second entry this was',
    ADD FOREIGN KEY people_merged (merged_into) REFERENCES people (id) ON DELETE SET NULL`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE people DROP FOREIGN KEY people_merged, DROP COLUMN merged_into');
  await db.raw('DROP TABLE person_addresses');
}
