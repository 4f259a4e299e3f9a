import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE occurrences
    ADD COLUMN withdrawn_at DATETIME(3) NULL COMMENT 'since when its readers are told that it does not hold, and not what it said',
    ADD COLUMN withdrawn_note VARCHAR(300) NULL COMMENT 'what they are told instead'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE occurrences DROP COLUMN withdrawn_at, DROP COLUMN withdrawn_note');
}
