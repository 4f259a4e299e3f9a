import type { TestProject } from 'vitest/node';
import { placeFolder } from '../../scripts/house/bringUp.ts';
import { startMariaDb } from '../../scripts/house/mariadb.ts';

declare module 'vitest' {
  interface ProvidedContext {
    /** Address of the tests' database server, with DATABASE where a database's name goes. */
    databaseServer: string;
  }
}

/** One MariaDB of the tests' own on loopback; each test file makes itself a database in it. */
export default async function mariadb(project: TestProject): Promise<() => Promise<void>> {
  const local = await startMariaDb(`${placeFolder('tests')}/database`, { durable: false, say: console.log });
  project.provide('databaseServer', local.url('DATABASE'));
  return () => local.running.stop();
}
