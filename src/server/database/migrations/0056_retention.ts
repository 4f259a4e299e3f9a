import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE retention (
    kind VARCHAR(20) CHARACTER SET ascii PRIMARY KEY,
    days SMALLINT UNSIGNED NULL COMMENT 'null: for good',
    days_before SMALLINT UNSIGNED NULL COMMENT 'how long it is kept until from_at',
    from_at DATETIME(3) NOT NULL COMMENT 'when the choice begins to hold',
    changed_by BIGINT UNSIGNED NULL,
    changed_at DATETIME(3) NOT NULL DEFAULT NOW(3),
    FOREIGN KEY (changed_by) REFERENCES people (id) ON DELETE SET NULL
  ) COMMENT 'how long each kind is kept, where it was chosen'`);
  await db.raw(`CREATE TABLE kept_counts (
    occurrence_id BIGINT UNSIGNED PRIMARY KEY,
    deliveries JSON NULL COMMENT 'what its deliveries came to',
    deliveries_at DATETIME(3) NULL COMMENT 'since when only their counts are known',
    answers JSON NULL COMMENT 'what its roll came to',
    answers_at DATETIME(3) NULL,
    FOREIGN KEY (occurrence_id) REFERENCES occurrences (id)
  ) COMMENT 'what is left of a going-out whose deliveries or answers were forgotten'`);
  await db.raw(`CREATE TABLE loose_uploads (
    upload_key CHAR(22) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY
  ) COMMENT 'uploads of what was forgotten: deleted once it is found that nothing else names them'`);
  // What is old is looked for again and again: nothing is read for it but what is.
  await db.raw('ALTER TABLE hook_calls ADD INDEX calls_by_time (at), ADD INDEX calls_of_post (post_id)');
  await db.raw('ALTER TABLE notices ADD INDEX notices_by_path (path)');
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE notices DROP INDEX notices_by_path');
  await db.raw('ALTER TABLE hook_calls DROP INDEX calls_by_time, DROP INDEX calls_of_post');
  await db.raw('DROP TABLE loose_uploads, kept_counts, retention');
}
