import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(
    "ALTER TABLE idempotency_keys ADD COLUMN answer MEDIUMTEXT NULL COMMENT 'what was answered, as JSON, for the same call again'",
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE idempotency_keys DROP COLUMN answer');
}
