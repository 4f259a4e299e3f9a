import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { BACKUP_COMMANDS } from '../../scripts/house/backups.ts';
import { placeFolder } from '../../scripts/house/bringUp.ts';
import { ensureCommands } from '../../scripts/house/debian.ts';
import { createDatabase, startMariaDb } from '../../scripts/house/mariadb.ts';
import { connect } from '../../src/server/database/connection.ts';
import { migrate } from '../../src/server/database/migrate.ts';
import { statementsOf } from './copies.ts';

declare module 'vitest' {
  interface ProvidedContext {
    /** Address of the tests' database server, with DATABASE where a database's name goes. */
    databaseServer: string;
    /** The file of the statements that lay out a database as all migrations together do. */
    layout: string;
    /** Where the statements of the demo are kept by the first test file that loads it. */
    demo: string;
  }
}

/** One MariaDB of the tests' own on loopback; each test file makes itself a database in it. */
export default async function mariadb(project: TestProject): Promise<() => Promise<void>> {
  ensureCommands(BACKUP_COMMANDS, console.log);
  const folder = placeFolder('tests');
  const local = await startMariaDb(join(folder, 'database'), { durable: false, say: console.log });
  const layout = join(folder, 'layout.sql');
  const demo = join(folder, 'demo.sql');
  rmSync(demo, { force: true });
  const url = local.url('clear_bell_test_layout');
  await createDatabase(url, true);
  const db = connect(url);
  await migrate(db);
  await db.destroy();
  writeFileSync(layout, statementsOf(url));
  project.provide('databaseServer', local.url('DATABASE'));
  project.provide('layout', layout);
  project.provide('demo', demo);
  return () => local.running.stop();
}
