import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  // Whoever leaves is looked at against the coordinators there are; without it every person was read, and held.
  await db.raw('ALTER TABLE people ADD INDEX people_by_role (role, standing)');
  await db.raw(`CREATE TABLE scim_clients (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL UNIQUE COMMENT 'the system that keeps people up to date here',
    token_hash BINARY(32) NOT NULL UNIQUE,
    made_by BIGINT UNSIGNED NOT NULL,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    used_at DATETIME(3) NULL,
    FOREIGN KEY (made_by) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE scim_users (
    person_id BIGINT UNSIGNED PRIMARY KEY,
    client_id BIGINT UNSIGNED NULL,
    user_name VARCHAR(254) NOT NULL UNIQUE,
    external_id VARCHAR(255) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL,
    more JSON NOT NULL COMMENT 'what the client keeps of them that has no other place here',
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    changed_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    deleted_at DATETIME(3) NULL COMMENT 'deleted there: not told of any more, and left here',
    INDEX users_by_external (external_id),
    INDEX users_of_client (client_id, person_id),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE,
    FOREIGN KEY (client_id) REFERENCES scim_clients (id) ON DELETE SET NULL
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE scim_groups (
    group_id BIGINT UNSIGNED PRIMARY KEY,
    client_id BIGINT UNSIGNED NULL,
    external_id VARCHAR(255) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    changed_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    INDEX groups_by_external (external_id),
    FOREIGN KEY (group_id) REFERENCES \`groups\` (id) ON DELETE CASCADE,
    FOREIGN KEY (client_id) REFERENCES scim_clients (id) ON DELETE SET NULL
  ) ${UNICODE}`);
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['scim_groups', 'scim_users', 'scim_clients']) await db.raw(`DROP TABLE ${table}`);
  await db.raw('ALTER TABLE people DROP INDEX people_by_role');
}
