import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE api_tokens (
    id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    person_id BIGINT UNSIGNED NOT NULL COMMENT 'with whose rights it acts',
    name VARCHAR(80) NOT NULL,
    token_hash BINARY(32) NOT NULL COMMENT 'SHA-256 of the token, which is kept nowhere',
    scopes VARCHAR(400) NOT NULL COMMENT 'separated by blanks',
    made_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    expires_at DATETIME(3) NOT NULL,
    UNIQUE KEY api_tokens_by_hash (token_hash),
    KEY api_tokens_of_person (person_id),
    FOREIGN KEY (person_id) REFERENCES people (id)
  )`);
  await db.raw(`CREATE TABLE api_calls (
    token_id BIGINT UNSIGNED NOT NULL,
    day DATE NOT NULL COMMENT 'in UTC',
    calls INT UNSIGNED NOT NULL,
    last_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
    PRIMARY KEY (token_id, day),
    FOREIGN KEY (token_id) REFERENCES api_tokens (id) ON DELETE CASCADE
  )`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE api_calls');
  await db.raw('DROP TABLE api_tokens');
}
