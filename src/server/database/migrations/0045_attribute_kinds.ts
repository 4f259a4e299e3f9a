import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE attribute_kinds (
    name VARCHAR(60) NOT NULL PRIMARY KEY,
    kind ENUM('text', 'number', 'date', 'choice') NOT NULL,
    choices JSON NOT NULL COMMENT 'of a choice, what can be chosen; empty otherwise'
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci
    COMMENT 'what attributes of people hold; one that is not named here holds text'`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE attribute_kinds');
}
