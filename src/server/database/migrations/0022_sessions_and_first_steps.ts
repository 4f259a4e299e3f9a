import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(
    "ALTER TABLE organisation ADD COLUMN steps_left JSON NOT NULL DEFAULT '[]' COMMENT 'first steps left for later'",
  );
  await db.raw(`ALTER TABLE sessions
    ADD COLUMN id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT UNIQUE FIRST,
    ADD COLUMN agent VARCHAR(300) NOT NULL DEFAULT '' COMMENT 'what the browser says it is',
    ADD COLUMN seen_at DATETIME(3) NOT NULL DEFAULT NOW(3) COMMENT 'to some minutes'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE sessions DROP COLUMN id, DROP COLUMN agent, DROP COLUMN seen_at');
  await db.raw('ALTER TABLE organisation DROP COLUMN steps_left');
}
