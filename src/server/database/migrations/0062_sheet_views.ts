import type { Knex } from 'knex';

/** Views of record sheets that are kept, and when a sheet changed last without reading all of it. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE sheet_views (
    id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    sheet_id BIGINT UNSIGNED NOT NULL,
    name VARCHAR(60) NOT NULL,
    view JSON NOT NULL COMMENT 'which records, in which order, with which columns',
    shared BOOLEAN NOT NULL COMMENT 'whether everybody who sees the sheet has it',
    made_by BIGINT UNSIGNED NOT NULL,
    made_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    INDEX views_of_sheet (sheet_id, name),
    FOREIGN KEY (sheet_id) REFERENCES sheets (id) ON DELETE CASCADE,
    FOREIGN KEY (made_by) REFERENCES people (id)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
  await db.raw('ALTER TABLE records ADD INDEX records_by_change (sheet_id, changed_at)');
  await db.raw(`ALTER TABLE sheets
    ADD COLUMN records INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'how many there are: counted as they come and go',
    ADD COLUMN removed INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'how many were deleted: what changed is told by it'`);
  await db.raw('UPDATE sheets s SET s.records = (SELECT COUNT(*) FROM records r WHERE r.sheet_id = s.id)');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE sheets DROP COLUMN records, DROP COLUMN removed');
  await db.raw('ALTER TABLE records DROP INDEX records_by_change');
  await db.raw('DROP TABLE sheet_views');
}
