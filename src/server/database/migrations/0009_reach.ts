import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  // A linked contact is a person who is copied in for another and is in no audience of their own.
  await db.raw(`ALTER TABLE people
    ADD COLUMN linked_to BIGINT UNSIGNED NULL COMMENT 'of a linked contact: whose',
    ADD COLUMN relation VARCHAR(60) NOT NULL DEFAULT '' COMMENT 'of a linked contact: how they are linked',
    ADD COLUMN quiet_from CHAR(5) CHARACTER SET ascii NULL COMMENT 'HH:MM on their clock; null is as the organisation',
    ADD COLUMN quiet_to CHAR(5) CHARACTER SET ascii NULL,
    ADD COLUMN calendar_key BINARY(32) NULL UNIQUE COMMENT 'SHA-256 of the key in the address of their calendar feed',
    ADD INDEX people_by_clock (linked_to, zone, quiet_from, quiet_to, standing, station_id, mail_stopped_at, mail,
      occupation, joined_on, role) COMMENT 'holds all that counting an audience by clock looks at',
    ADD INDEX people_by_standing (linked_to, standing, joined_on, role, station_id)
      COMMENT 'short, for counting an audience as it is changed',
    ADD FOREIGN KEY (linked_to) REFERENCES people (id) ON DELETE CASCADE`);
  await db.raw(`ALTER TABLE organisation
    ADD COLUMN quiet_from CHAR(5) CHARACTER SET ascii NULL,
    ADD COLUMN quiet_to CHAR(5) CHARACTER SET ascii NULL`);
  await db.raw(`CREATE TABLE person_attributes (
    person_id BIGINT UNSIGNED NOT NULL,
    name VARCHAR(60) NOT NULL,
    value VARCHAR(120) NOT NULL,
    PRIMARY KEY (person_id, name),
    INDEX people_by_attribute (name, value, person_id),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE saved_audiences (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(120) NOT NULL UNIQUE,
    expression JSON NOT NULL,
    saved_by BIGINT UNSIGNED NOT NULL,
    saved_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    FOREIGN KEY (saved_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw('ALTER TABLE `groups` ADD COLUMN needs_clearance BOOLEAN NOT NULL DEFAULT FALSE');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE `groups` DROP COLUMN needs_clearance');
  await db.raw('DROP TABLE saved_audiences, person_attributes');
  await db.raw('ALTER TABLE organisation DROP COLUMN quiet_from, DROP COLUMN quiet_to');
}
