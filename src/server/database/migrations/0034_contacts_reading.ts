import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(
    "ALTER TABLE boards ADD COLUMN contacts_read BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'whether linked contacts of its readers may read it by a link of their own'",
  );
  await db.raw("ALTER TABLE follows MODIFY COLUMN choice ENUM('follow', 'mute', 'hide') NOT NULL");
}

export async function down(db: Knex): Promise<void> {
  await db.raw("UPDATE follows SET choice = 'mute' WHERE choice = 'hide'");
  await db.raw("ALTER TABLE follows MODIFY COLUMN choice ENUM('follow', 'mute') NOT NULL");
  await db.raw('ALTER TABLE boards DROP COLUMN contacts_read');
}
