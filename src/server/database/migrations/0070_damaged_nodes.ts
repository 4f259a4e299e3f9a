import type { Knex } from 'knex';

/** Database servers that said of themselves that a table or an index of theirs is damaged, for the proxy's check and the operator. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`CREATE TABLE damaged_nodes (
    instance VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY COMMENT 'which start of which node, as Galera names it; empty where nothing is replicated',
    node VARCHAR(64) NOT NULL,
    found_at DATETIME(3) NOT NULL,
    words VARCHAR(300) NOT NULL COMMENT 'what it said'
  )`);
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE damaged_nodes');
}
