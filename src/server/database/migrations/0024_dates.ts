import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE automations
    ADD COLUMN looked_until DATETIME(3) NOT NULL DEFAULT NOW(3) COMMENT 'until when it has looked at dates that set it off'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE automations DROP COLUMN looked_until');
}
