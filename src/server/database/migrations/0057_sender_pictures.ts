import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(
    "ALTER TABLE senders ADD COLUMN picture JSON NULL COMMENT 'shown beside what stands under its name'",
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE senders DROP COLUMN picture');
}
