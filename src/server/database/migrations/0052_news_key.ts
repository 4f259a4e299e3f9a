import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(
    "ALTER TABLE people ADD COLUMN news_key BINARY(32) NULL UNIQUE COMMENT 'SHA-256 of the key in the addresses of their feeds'",
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE people DROP COLUMN news_key');
}
