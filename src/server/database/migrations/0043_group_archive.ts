import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(
    "ALTER TABLE `groups` ADD COLUMN archived_at DATETIME(3) NULL COMMENT 'since when it is offered nowhere; null while it is in use'",
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE `groups` DROP COLUMN archived_at');
}
