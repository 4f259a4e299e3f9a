import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(
    "ALTER TABLE hooks_in ADD COLUMN mail_key CHAR(20) CHARACTER SET ascii NULL UNIQUE COMMENT 'the part of its mail address that cannot be guessed'",
  );
  // The address it has cannot be guessed either, so that neither can what is made of it.
  await db.raw("UPDATE hooks_in SET mail_key = LEFT(SHA2(CONCAT('mail:', address_key), 256), 20)");
  await db.raw('ALTER TABLE hooks_in MODIFY mail_key CHAR(20) CHARACTER SET ascii NOT NULL');
  await db.raw(`ALTER TABLE people
    ADD COLUMN mail_failing VARCHAR(254) NULL COMMENT 'the address from which mail came back; it fails while it is their address',
    ADD COLUMN mail_failing_at DATETIME(3) NULL COMMENT 'when it came back last',
    ADD COLUMN mail_failing_reason VARCHAR(300) NULL COMMENT 'why, as the server that refused it said',
    ADD INDEX people_failing (mail_failing)`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(
    'ALTER TABLE people DROP INDEX people_failing, DROP COLUMN mail_failing, DROP COLUMN mail_failing_at, DROP COLUMN mail_failing_reason',
  );
  await db.raw('ALTER TABLE hooks_in DROP COLUMN mail_key');
}
