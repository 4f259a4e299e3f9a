import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE passwords (
    person_id BIGINT UNSIGNED PRIMARY KEY,
    hash VARCHAR(255) CHARACTER SET ascii NOT NULL COMMENT 'Argon2id, PHC string format',
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  )`);
  await db.raw(`CREATE TABLE sessions (
    token_hash BINARY(32) PRIMARY KEY COMMENT 'SHA-256 of the token in the cookie',
    person_id BIGINT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    expires_at DATETIME(3) NOT NULL,
    INDEX sessions_by_person (person_id),
    INDEX sessions_by_expiry (expires_at),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE
  )`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE sessions, passwords');
}
