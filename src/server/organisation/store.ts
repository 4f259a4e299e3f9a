import { once } from 'node:events';
import type { Readable } from 'node:stream';
import type { ColumnKind } from '../../core/organisation/manifest.ts';
import { change, rows, type Database, type Transaction } from '../database/connection.ts';
import { LEFT_OUT, LEFT_OUT_COLUMNS } from './tables.ts';

export interface KeptTable {
  name: string;
  columns: { name: string; kind: ColumnKind; nullable: boolean }[];
  /** Of its primary key, by which its rows are in order. */
  key: string[];
}

const kindOf = (type: string): ColumnKind => {
  switch (type) {
    case 'longtext':
      return 'json';
    case 'date':
      return 'date';
    case 'datetime':
    case 'timestamp':
      return 'instant';
    case 'binary':
    case 'varbinary':
      return 'bytes';
    default:
      return 'plain';
  }
};

/** The tables of an archive as this database has them, by name, with the columns that are in it. */
export async function keptTables(db: Database): Promise<KeptTable[]> {
  const found = await rows<{
    table: string;
    name: string;
    type: string;
    nullable: number;
    isKey: number;
    generated: number;
  }>(
    db,
    `SELECT c.TABLE_NAME AS \`table\`, c.COLUMN_NAME AS name, c.DATA_TYPE AS type, c.IS_NULLABLE = 'YES' AS nullable,
       c.COLUMN_KEY = 'PRI' AS isKey, c.IS_GENERATED = 'ALWAYS' AS generated
     FROM information_schema.COLUMNS c JOIN information_schema.TABLES t ON t.TABLE_SCHEMA = c.TABLE_SCHEMA AND t.TABLE_NAME = c.TABLE_NAME
     WHERE c.TABLE_SCHEMA = DATABASE() AND t.TABLE_TYPE = 'BASE TABLE' ORDER BY c.TABLE_NAME, c.ORDINAL_POSITION`,
  );
  const tables = new Map<string, KeptTable>();
  for (const { table, name, type, nullable, isKey, generated } of found) {
    if (table in LEFT_OUT) continue;
    const kept = tables.get(table) ?? { name: table, columns: [], key: [] };
    tables.set(table, kept);
    if (isKey === 1) kept.key.push(name);
    if (generated === 1 || name in (LEFT_OUT_COLUMNS[table] ?? {})) continue;
    kept.columns.push({ name, kind: kindOf(type), nullable: nullable === 1 });
  }
  return [...tables.values()];
}

const asText = (name: string, kind: ColumnKind): string => {
  const column = `\`${name}\``;
  switch (kind) {
    case 'date':
      return `DATE_FORMAT(${column}, '%Y-%m-%d') AS ${column}`;
    case 'instant':
      return `CONCAT(LEFT(DATE_FORMAT(${column}, '%Y-%m-%dT%H:%i:%s.%f'), 23), 'Z') AS ${column}`;
    case 'bytes':
      return `LOWER(HEX(${column})) AS ${column}`;
    default:
      return column;
  }
};

/**
 * The rows of a statement, read as they are taken. Left in the middle, it reads the rest to its end and away: its connection
 * could do nothing else otherwise.
 */
async function* streamed<T>(
  trx: Transaction,
  sql: string,
  options: { rowsAsArray?: boolean } = {},
): AsyncGenerator<T> {
  const stream: Readable = trx.raw(sql).options(options).stream();
  try {
    for await (const row of stream.iterator({ destroyOnReturn: false })) yield row as T;
  } finally {
    if (!stream.readableEnded && !stream.destroyed) {
      stream.resume();
      await once(stream, 'end').catch(() => undefined);
    }
  }
}

/** Every row of a table in the order of its key, read as it is taken: instants ISO 8601 in UTC, bytes in hexadecimal digits. */
export function rowsOf(
  trx: Transaction,
  { name, columns, key }: KeptTable,
): AsyncIterable<Record<string, unknown>> {
  const order = key.length === 0 ? '' : ` ORDER BY ${key.map((each) => `\`${each}\``).join(', ')}`;
  const said = columns.map((column) => asText(column.name, column.kind)).join(', ');
  return streamed(trx, `SELECT ${said} FROM \`${name}\`${order}`);
}

/** Who takes the whole organisation away slowly is waited for. */
export const waitLong = (trx: Transaction): Promise<number> =>
  change(trx, 'SET SESSION net_write_timeout = 3600');

/** What was uploaded, by its key, a page of it after one. */
export const uploadsAfter = (
  db: Database,
  after: string,
  most: number,
): Promise<{ key: string; name: string; mime: string; size: number | null }[]> =>
  rows(
    db,
    'SELECT upload_key AS `key`, name, mime, size FROM uploads WHERE upload_key > ? ORDER BY upload_key LIMIT ?',
    [after, most],
  );

/** The last change that was made to the layout of this database. */
export async function laidOut(db: Database): Promise<string> {
  const [row] = await rows<{ name: string | null }>(
    db,
    'SELECT name FROM knex_migrations ORDER BY id DESC LIMIT 1',
  );
  return row?.name ?? '';
}

/**
 * Texts that stand on boards, or were sent: by post and by announcement, a page of them after one. A page is read on from where the
 * last ended; left to itself, the database sorts all that is there for each of them.
 */
export const textsAfter = (
  db: Database,
  what: 'posts' | 'announcements',
  after: number,
  most: number,
): Promise<{ id: number; versionId: number; title: string; board: string | null; replies: number }[]> =>
  rows(
    db,
    what === 'posts'
      ? `SELECT o.id, o.version_id AS versionId, v.title, b.name AS board, o.replies FROM posts o FORCE INDEX (PRIMARY) STRAIGHT_JOIN announcement_versions v ON v.id = o.version_id
           STRAIGHT_JOIN boards b ON b.id = o.board_id WHERE o.state = 'up' AND o.part = 1 AND o.id > ? ORDER BY o.id LIMIT ?`
      : `SELECT s.id, s.version_id AS versionId, v.title, NULL AS board, 0 AS replies FROM sends s FORCE INDEX (PRIMARY) STRAIGHT_JOIN announcement_versions v ON v.id = s.version_id
         WHERE s.kind = 'send' AND s.id > ? ORDER BY s.id LIMIT ?`,
    [after, most],
  );

/** Deliveries and answers for a spreadsheet: of what, to whom, how it went. */
export const SPREADSHEETS: Readonly<Record<string, { columns: readonly string[]; sql: string }>> = {
  groups: {
    columns: ['Group', 'Kind', 'Person', 'Mail'],
    sql: `SELECT g.name, g.kind, p.name, COALESCE(p.mail, '') FROM \`groups\` g LEFT JOIN group_members m ON m.group_id = g.id
      LEFT JOIN people p ON p.id = m.person_id ORDER BY g.name, p.name, p.id`,
  },
  identities: {
    columns: ['Person', 'Mail', 'System', 'Value'],
    sql: `SELECT p.name, COALESCE(p.mail, ''), i.in_system, i.value FROM identities i JOIN people p ON p.id = i.person_id
      ORDER BY i.in_system, i.value`,
  },
  deliveries: {
    columns: [
      'What',
      'Occurrence',
      'Person',
      'Method',
      'State',
      'Due (UTC)',
      'Went (UTC)',
      'Read (UTC)',
      'Why not',
    ],
    sql: `SELECT v.title, d.occurrence_id, p.name, d.method, d.state, DATE_FORMAT(d.due_at, '%Y-%m-%d %H:%i:%s'),
        COALESCE(DATE_FORMAT(d.went_at, '%Y-%m-%d %H:%i:%s'), ''), COALESCE(DATE_FORMAT(d.read_at, '%Y-%m-%d %H:%i:%s'), ''), COALESCE(d.reason, '')
      FROM deliveries d JOIN occurrences o ON o.id = d.occurrence_id JOIN announcement_versions v ON v.id = o.version_id
        JOIN people p ON p.id = d.person_id ORDER BY d.occurrence_id, d.person_id, d.method`,
  },
  answers: {
    columns: ['What', 'Occurrence', 'Asks for', 'Person', 'Answered (UTC)', 'By'],
    sql: `SELECT v.title, r.occurrence_id, a.kind, p.name, COALESCE(DATE_FORMAT(r.answered_at, '%Y-%m-%d %H:%i:%s'), ''), COALESCE(r.via, '')
      FROM roll r JOIN asks a ON a.occurrence_id = r.occurrence_id JOIN occurrences o ON o.id = r.occurrence_id
        JOIN announcement_versions v ON v.id = o.version_id JOIN people p ON p.id = r.person_id
      ORDER BY r.occurrence_id, r.person_id`,
  },
};

/** The lines of a spreadsheet, some hundred at a time. */
export async function* linesOf(trx: Transaction, sql: string): AsyncGenerator<string[][]> {
  let page: string[][] = [];
  for await (const row of streamed<(string | number | null)[]>(trx, sql, { rowsAsArray: true })) {
    page.push(row.map((value) => (value === null ? '' : String(value))));
    if (page.length === 500) {
      yield page;
      page = [];
    }
  }
  yield page;
}
