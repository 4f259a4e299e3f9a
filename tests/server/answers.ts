import { randomUUID } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import mysql from 'mysql2';
import { afterAll } from 'vitest';
import { withShortLists, type Answered } from '../../scripts/house/answered.ts';

/*
 * Keeps what the database answered to each statement of the server tests: its columns, and of what kind their values were. The check
 * holds that beside the types the stores give those rows (scripts/rowTypes.ts). Nothing is kept unless a folder is named for it.
 */

const folder = process.env.ANSWERS_TO;

interface Column {
  name: string;
  schema: string;
  flags: number;
}

const NOT_NULL = 1;

/** Of what kind a value is that the driver gave. */
const kindOf = (value: unknown): string =>
  value === null
    ? 'null'
    : value instanceof Date
      ? 'Date'
      : Buffer.isBuffer(value)
        ? 'Buffer'
        : Array.isArray(value)
          ? 'array'
          : typeof value;

/** What was answered in this process since it was last written down, by statement: one for all files of tests that share it. */
const shared = globalThis as typeof globalThis & { answered?: Map<string, Answered> };
const listening = shared.answered !== undefined;
const answered = (shared.answered ??= new Map<string, Answered>());

function keep(sql: string, given: unknown, columns: readonly Column[] | undefined): void {
  if (!Array.isArray(given) || columns === undefined) return;
  const statement = withShortLists(sql);
  const known = answered.get(statement) ?? { sql: statement, rows: 0, columns: {} };
  answered.set(statement, known);
  known.rows += given.length;
  for (const { name, schema, flags } of columns) {
    const column = (known.columns[name] ??= { kinds: [], mayBeNull: false });
    column.mayBeNull ||= schema !== '' && (flags & NOT_NULL) === 0;
    // Of very many rows some tell enough.
    for (const row of given.slice(0, 200) as Record<string, unknown>[]) {
      const kind = kindOf(row[name]);
      if (!column.kinds.includes(kind)) column.kinds.push(kind);
    }
  }
}

type Done = (error: unknown, given: unknown, columns: readonly Column[] | undefined) => void;
type Query = (this: unknown, options: { sql: string }, values: unknown, done: unknown) => unknown;

function listen(): void {
  const connection = Object.getPrototypeOf(
    (mysql as unknown as { Connection: { prototype: object } }).Connection.prototype,
  ) as { query: Query };
  const query = connection.query;
  connection.query = function (options, values, done) {
    if (typeof done !== 'function' || typeof options !== 'object')
      return query.call(this, options, values, done);
    return query.call(this, options, values, ((error, given, columns) => {
      if (error === null) keep(options.sql, given, columns);
      (done as Done)(error, given, columns);
    }) satisfies Done);
  };
}

if (folder !== undefined) {
  if (!listening) listen();
  afterAll(() => {
    if (answered.size === 0) return;
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, `${randomUUID()}.json`), JSON.stringify([...answered.values()]));
    answered.clear();
  });
}
