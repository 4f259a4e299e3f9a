import type { Knex } from 'knex';

/** The highest number a column of a sheet ever had, so that a new one never has what one that was taken out held. */
export async function up(db: Knex): Promise<void> {
  await db.raw(
    "ALTER TABLE sheets ADD last_column INT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'the highest number a column ever had'",
  );
  await db.raw(`UPDATE sheets s SET s.last_column = COALESCE((SELECT MAX(CAST(SUBSTR(j.id, 2) AS UNSIGNED))
    FROM JSON_TABLE(s.columns, '$[*]' COLUMNS (id VARCHAR(8) PATH '$.id')) j), 0)`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('ALTER TABLE sheets DROP COLUMN last_column');
}
