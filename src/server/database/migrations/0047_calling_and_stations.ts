import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`ALTER TABLE \`groups\`
    ADD COLUMN callable BOOLEAN NOT NULL DEFAULT FALSE
      COMMENT 'whether whoever is on a board with those in it may call on it there'`);
  await db.raw(
    "ALTER TABLE stations ADD COLUMN retired_at DATETIME(3) NULL COMMENT 'from when on nobody is put there any more'",
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE stations DROP COLUMN retired_at');
  await db.raw('ALTER TABLE `groups` DROP COLUMN callable');
}
