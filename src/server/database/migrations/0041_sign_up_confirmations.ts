import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Who had signed up before confirmations were sent is not written to now.
  await db.raw(`ALTER TABLE sign_ups
    ADD COLUMN zone VARCHAR(64) NULL COMMENT 'the clock of the browser it came from; null where it told none',
    ADD COLUMN state ENUM('waiting', 'sending', 'sent', 'failed') NOT NULL DEFAULT 'sent' COMMENT 'of its confirmation',
    ADD COLUMN try_at DATETIME(3) NULL DEFAULT NOW(3) COMMENT 'when it is to be tried, or the end of a claim',
    ADD COLUMN attempts SMALLINT UNSIGNED NOT NULL DEFAULT 0,
    ADD COLUMN claim CHAR(16) CHARACTER SET ascii COLLATE ascii_bin NULL,
    ADD COLUMN sent_at DATETIME(3) NULL,
    ADD COLUMN reason VARCHAR(300) NULL,
    ADD COLUMN told SMALLINT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'how many mails about it have gone',
    ADD COLUMN digest CHAR(16) CHARACTER SET ascii COLLATE ascii_bin NULL COMMENT 'of what the last of them told',
    ADD COLUMN waits_since DATETIME(3) NOT NULL DEFAULT NOW(3),
    ADD INDEX sign_ups_to_try (state, try_at)`);
  await db.raw(`ALTER TABLE sign_ups MODIFY COLUMN state
    ENUM('waiting', 'sending', 'sent', 'failed') NOT NULL DEFAULT 'waiting' COMMENT 'of its confirmation'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE sign_ups DROP INDEX sign_ups_to_try, DROP COLUMN zone, DROP COLUMN state, DROP COLUMN try_at,
    DROP COLUMN attempts, DROP COLUMN claim, DROP COLUMN sent_at, DROP COLUMN reason,
    DROP COLUMN told, DROP COLUMN digest, DROP COLUMN waits_since`);
}
