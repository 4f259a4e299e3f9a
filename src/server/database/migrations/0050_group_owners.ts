import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE group_owners (
    group_id BIGINT UNSIGNED NOT NULL,
    person_id BIGINT UNSIGNED NOT NULL COMMENT 'sees the rolls of this group, lets people in, and is told who is missing',
    PRIMARY KEY (group_id, person_id),
    KEY group_owners_of_person (person_id),
    FOREIGN KEY (group_id) REFERENCES \`groups\` (id) ON DELETE CASCADE,
    FOREIGN KEY (person_id) REFERENCES people (id)
  )`);
  await db.raw(
    'INSERT INTO group_owners (group_id, person_id) SELECT id, owner_id FROM `groups` WHERE owner_id IS NOT NULL',
  );
  await db.raw('ALTER TABLE `groups` DROP FOREIGN KEY groups_ibfk_1, DROP COLUMN owner_id');
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE \`groups\`
    ADD COLUMN owner_id BIGINT UNSIGNED NULL COMMENT 'sees the rolls of this group, and is told who is missing',
    ADD INDEX groups_by_owner (owner_id),
    ADD CONSTRAINT groups_ibfk_1 FOREIGN KEY (owner_id) REFERENCES people (id)`);
  await db.raw(
    'UPDATE `groups` g SET owner_id = (SELECT MIN(o.person_id) FROM group_owners o WHERE o.group_id = g.id)',
  );
  await db.raw('DROP TABLE group_owners');
}
