import type { Knex } from 'knex';

const UNICODE = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE access_letters (
    id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
    person_id BIGINT UNSIGNED NOT NULL,
    kind ENUM('invitation', 'reset', 'sign-in', 'told') NOT NULL,
    words VARCHAR(1200) NOT NULL DEFAULT '' COMMENT 'what whoever invites has written, or what somebody is told of',
    made_by BIGINT UNSIGNED NULL COMMENT 'who sent it; null where its reader asked for it',
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    expires_at DATETIME(3) NOT NULL,
    used_at DATETIME(3) NULL,
    withdrawn_at DATETIME(3) NULL,
    state ENUM('waiting', 'sending', 'sent', 'failed', 'called off') NOT NULL DEFAULT 'waiting',
    try_at DATETIME(3) NULL DEFAULT NOW(3) COMMENT 'when it is to be tried, or the end of a claim',
    attempts SMALLINT UNSIGNED NOT NULL DEFAULT 0,
    claim CHAR(16) CHARACTER SET ascii COLLATE ascii_bin NULL,
    sent_at DATETIME(3) NULL,
    reason VARCHAR(300) NULL,
    INDEX access_letters_to_try (state, try_at),
    INDEX access_letters_of_person (person_id, kind, id),
    FOREIGN KEY (person_id) REFERENCES people (id) ON DELETE CASCADE,
    FOREIGN KEY (made_by) REFERENCES people (id) ON DELETE SET NULL
  ) ${UNICODE} COMMENT 'mails with a link that lets somebody in; the link itself is signed and stands nowhere'`);
  await db.raw('ALTER TABLE passwords ADD COLUMN set_at DATETIME(3) NOT NULL DEFAULT NOW(3)');
  await db.raw(
    "ALTER TABLE people ADD COLUMN first_in_at DATETIME(3) NULL COMMENT 'when they first signed in'",
  );
  await db.raw(`UPDATE people p SET p.first_in_at = NOW(3)
    WHERE EXISTS (SELECT 1 FROM passwords w WHERE w.person_id = p.id)
       OR EXISTS (SELECT 1 FROM sessions s WHERE s.person_id = p.id)`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE people DROP COLUMN first_in_at');
  await db.raw('ALTER TABLE passwords DROP COLUMN set_at');
  await db.raw('DROP TABLE access_letters');
}
