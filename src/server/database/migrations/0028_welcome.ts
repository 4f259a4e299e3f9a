import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(
    "ALTER TABLE people ADD COLUMN welcomed_at DATETIME(3) NULL COMMENT 'when they had read what is here, on their first day'",
  );
  // Whoever has been here already needs no welcome.
  await db.raw(
    'UPDATE people p SET p.welcomed_at = NOW(3) WHERE EXISTS (SELECT 1 FROM board_marks m WHERE m.person_id = p.id)',
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE people DROP COLUMN welcomed_at');
}
