import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // In pieces, so that a part of it can be served without reading it all, and no statement carries it whole.
  await db.raw(`CREATE TABLE upload_parts (
    upload_key CHAR(22) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    n INT UNSIGNED NOT NULL,
    bytes MEDIUMBLOB NOT NULL,
    PRIMARY KEY (upload_key, n)
  )`);
  await db.raw(
    "ALTER TABLE uploads ADD COLUMN size BIGINT UNSIGNED NULL COMMENT 'of what is kept in parts: how many bytes it has'",
  );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DELETE FROM uploads WHERE size IS NOT NULL');
  await db.raw('ALTER TABLE uploads DROP COLUMN size');
  await db.raw('DROP TABLE upload_parts');
}
