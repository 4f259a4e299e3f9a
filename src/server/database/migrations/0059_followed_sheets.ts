import type { Knex } from 'knex';

/** A record sheet may be read again and again from an outside source. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE sheet_sources (
    sheet_id BIGINT UNSIGNED PRIMARY KEY,
    source JSON NOT NULL COMMENT 'where it is read, how often, and which part of the answer is what',
    secret VARBINARY(1000) NULL COMMENT 'sealed',
    etag VARCHAR(300) NULL,
    modified VARCHAR(100) NULL COMMENT 'Last-Modified as it was answered',
    position VARCHAR(300) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '' COMMENT 'how far it was read, as the source calls it',
    warnings JSON NOT NULL,
    trouble VARCHAR(300) NULL,
    failures SMALLINT UNSIGNED NOT NULL DEFAULT 0,
    read_at DATETIME(3) NULL COMMENT 'when it was read last and understood',
    try_at DATETIME(3) NOT NULL COMMENT 'when it is read next; while it is read, when another may',
    revision INT UNSIGNED NOT NULL DEFAULT 1,
    made_by BIGINT UNSIGNED NULL,
    INDEX sheet_sources_due (try_at),
    FOREIGN KEY (sheet_id) REFERENCES sheets (id) ON DELETE CASCADE,
    FOREIGN KEY (made_by) REFERENCES people (id) ON DELETE SET NULL
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci`);
  await db.raw(`ALTER TABLE records
    ADD COLUMN source_key VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL COMMENT 'what sets it apart at its source',
    ADD UNIQUE KEY from_source_once (sheet_id, source_key)`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE records DROP INDEX from_source_once, DROP COLUMN source_key');
  await db.raw('DROP TABLE sheet_sources');
}
