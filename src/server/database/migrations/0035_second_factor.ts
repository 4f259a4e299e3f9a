import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE code_secrets (
    person_id BIGINT UNSIGNED PRIMARY KEY,
    sealed VARBINARY(255) NOT NULL COMMENT 'the secret of one-time codes (RFC 6238), sealed',
    set_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    confirmed_at DATETIME(3) NULL COMMENT 'when a code of it was first given back; until then it counts for nothing',
    last_step BIGINT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'the latest step of 30 seconds whose code was taken',
    FOREIGN KEY (person_id) REFERENCES people (id)
  )`);
  await db.raw(`CREATE TABLE passkeys (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    person_id BIGINT UNSIGNED NOT NULL,
    credential VARCHAR(1400) CHARACTER SET ascii COLLATE ascii_bin NOT NULL COMMENT 'its id, in base64url',
    public_key VARBINARY(2000) NOT NULL,
    counter BIGINT UNSIGNED NOT NULL,
    transports VARCHAR(200) NOT NULL DEFAULT '',
    name VARCHAR(80) NOT NULL,
    added_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    used_at DATETIME(3) NULL,
    UNIQUE KEY credential_once (credential),
    INDEX passkeys_of_person (person_id, id),
    FOREIGN KEY (person_id) REFERENCES people (id)
  ) ${UNICODE}`);
  await db.raw(`CREATE TABLE recovery_codes (
    person_id BIGINT UNSIGNED NOT NULL,
    code_hash BINARY(32) NOT NULL,
    used_at DATETIME(3) NULL,
    PRIMARY KEY (person_id, code_hash),
    FOREIGN KEY (person_id) REFERENCES people (id)
  )`);
  await db.raw(`CREATE TABLE sign_in_steps (
    token_hash BINARY(32) PRIMARY KEY,
    kind ENUM('second', 'passkey', 'add passkey', 'provider') NOT NULL,
    person_id BIGINT UNSIGNED NULL,
    data JSON NOT NULL COMMENT 'what the step has to remember, such as a challenge',
    tries INT UNSIGNED NOT NULL DEFAULT 0,
    expires_at DATETIME(3) NOT NULL,
    INDEX steps_by_end (expires_at),
    FOREIGN KEY (person_id) REFERENCES people (id)
  ) ${UNICODE}`);
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['sign_in_steps', 'recovery_codes', 'passkeys', 'code_secrets'])
    await db.raw(`DROP TABLE ${table}`);
}
