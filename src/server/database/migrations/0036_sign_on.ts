import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE providers (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL UNIQUE,
    provider JSON NOT NULL COMMENT 'its address, our name there, and how people are matched',
    secret VARBINARY(1000) NULL COMMENT 'sealed',
    is_on BOOLEAN NOT NULL DEFAULT TRUE,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE provider_subjects (
    provider_id BIGINT UNSIGNED NOT NULL,
    subject VARCHAR(255) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL COMMENT 'who somebody is there (sub of OpenID Connect)',
    person_id BIGINT UNSIGNED NOT NULL,
    since DATETIME(3) NOT NULL DEFAULT NOW(3),
    PRIMARY KEY (provider_id, subject),
    UNIQUE KEY one_of_a_person (provider_id, person_id),
    INDEX subjects_of (person_id),
    FOREIGN KEY (provider_id) REFERENCES providers (id) ON DELETE CASCADE,
    FOREIGN KEY (person_id) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`ALTER TABLE sessions
    ADD COLUMN provider_id BIGINT UNSIGNED NULL COMMENT 'at which provider it was signed in',
    ADD COLUMN id_token VARBINARY(6000) NULL COMMENT 'sealed; named to the provider when signing out there'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE sessions DROP COLUMN provider_id, DROP COLUMN id_token');
  for (const table of ['provider_subjects', 'providers']) await db.raw(`DROP TABLE ${table}`);
}
