import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE people
    ADD COLUMN leave_from DATE NULL COMMENT 'the first day of a leave, on their clock',
    ADD COLUMN leave_until DATE NULL COMMENT 'its last day; null is until further notice',
    ADD COLUMN erased_at DATETIME(3) NULL COMMENT 'what was known of them is gone; what was counted stays counted',
    ADD INDEX people_by_leave (leave_from, leave_until)`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(
    'ALTER TABLE people DROP INDEX people_by_leave, DROP COLUMN leave_from, DROP COLUMN leave_until, DROP COLUMN erased_at',
  );
}
