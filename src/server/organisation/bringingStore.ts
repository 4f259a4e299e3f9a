import type { ColumnKind } from '../../core/organisation/manifest.ts';
import { change, rows, type Database, type Transaction } from '../database/connection.ts';
import { mayMove, moved } from '../sends/stateStore.ts';
import type { KeptTable } from './store.ts';

type Row = Readonly<Record<string, unknown>>;

function stored(value: unknown, kind: ColumnKind): unknown {
  if (value === undefined || value === null) return null;
  switch (kind) {
    case 'json':
      return typeof value === 'object' && '$text' in value ? value.$text : JSON.stringify(value);
    case 'instant':
      return typeof value === 'string' ? value.replace('T', ' ').replace('Z', '') : value;
    case 'bytes':
      return typeof value === 'string' ? Buffer.from(value, 'hex') : value;
    default:
      return value;
  }
}

/** While an archive is brought in, rows come before those they refer to; `orphans` looks afterwards. */
export const referToAnything = async (trx: Transaction, free: boolean): Promise<void> => {
  await change(trx, `SET SESSION foreign_key_checks = ${free ? 0 : 1}`);
};

/** Takes out what laying out the database put into a table. */
export const emptied = (trx: Transaction, table: string): Promise<number> =>
  change(trx, `DELETE FROM \`${table}\``);

/**
 * Puts rows of an archive into a table.
 *
 * @param further columns that every row has besides, with what makes the value of one
 */
export async function insertRows(
  trx: Transaction,
  table: KeptTable,
  found: readonly Row[],
  further: readonly (readonly [column: string, value: () => unknown])[],
): Promise<void> {
  if (found.length === 0) return;
  const names = [...table.columns.map(({ name }) => name), ...further.map(([name]) => name)];
  const one = `(${names.map(() => '?').join(', ')})`;
  await change(
    trx,
    `INSERT INTO \`${table.name}\` (${names.map((name) => `\`${name}\``).join(', ')}) VALUES ${found.map(() => one).join(', ')}`,
    found.flatMap((row) => [
      ...table.columns.map(({ name, kind }) => stored(row[name], kind)),
      ...further.map(([, value]) => value()),
    ]),
  );
}

/** Puts the bytes of an upload in: by itself, or in parts where its row says how many they are. */
export async function putBytes(
  trx: Transaction,
  key: string,
  inParts: boolean,
  n: number,
  bytes: Buffer,
): Promise<void> {
  if (inParts)
    await change(trx, 'INSERT INTO upload_parts (upload_key, n, bytes) VALUES (?, ?, ?)', [key, n, bytes]);
  else await change(trx, 'UPDATE uploads SET bytes = CONCAT(bytes, ?) WHERE upload_key = ?', [bytes, key]);
}

/** Which uploads there are, and whether each is kept in parts. */
export async function uploadsIn(trx: Transaction): Promise<Map<string, boolean>> {
  const found = await rows<{ key: string; inParts: number }>(
    trx,
    'SELECT upload_key AS `key`, size IS NOT NULL AS inParts FROM uploads',
  );
  return new Map(found.map(({ key, inParts }) => [key, inParts === 1]));
}

/** The first reference of a table to a row that is not there, in words; nothing where every reference holds. */
export async function orphan(trx: Transaction): Promise<string | undefined> {
  const keys = await rows<{ name: string; table: string; to: string; columns: string; toColumns: string }>(
    trx,
    `SELECT CONSTRAINT_NAME AS name, TABLE_NAME AS \`table\`, REFERENCED_TABLE_NAME AS \`to\`,
       GROUP_CONCAT(COLUMN_NAME ORDER BY ORDINAL_POSITION) AS columns, GROUP_CONCAT(REFERENCED_COLUMN_NAME ORDER BY ORDINAL_POSITION) AS toColumns
     FROM information_schema.KEY_COLUMN_USAGE WHERE TABLE_SCHEMA = DATABASE() AND REFERENCED_TABLE_NAME IS NOT NULL
     GROUP BY CONSTRAINT_NAME, TABLE_NAME, REFERENCED_TABLE_NAME`,
  );
  for (const { table, to, columns, toColumns } of keys) {
    const [from, into] = [columns.split(','), toColumns.split(',')];
    const [one] = await rows(
      trx,
      `SELECT 1 FROM \`${table}\` c LEFT JOIN \`${to}\` p ON ${from.map((name, i) => `p.\`${into[i] ?? ''}\` = c.\`${name}\``).join(' AND ')}
       WHERE ${from.map((name) => `c.\`${name}\` IS NOT NULL`).join(' AND ')} AND p.\`${into[0] ?? ''}\` IS NULL LIMIT 1`,
    );
    if (one) return `${table} (${from.join(', ')}) names a row of ${to} that is not there`;
  }
  return undefined;
}

/** Lays at rest what would speak by itself, or reach outside: the organisation it was taken from may still be running. */
export async function layAtRest(trx: Transaction): Promise<void> {
  const why = 'Brought in from an archive: look it through, and switch it on.';
  await change(trx, "UPDATE sends SET state = 'paused' WHERE state = 'active' AND recurring");
  // What comes again and again is held with its chases, as a pause does it; what was planned once is taken back.
  await change(
    trx,
    `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id JOIN sends c ON c.id = o.send_id
       JOIN sends s ON s.id = COALESCE(c.chases, c.id)
     SET b.state = IF(s.recurring, 'held', 'recalled'), b.lease_owner = NULL, b.lease_until = NULL
     WHERE b.state IN ('planned', 'held', 'expanding')`,
  );
  await change(
    trx,
    `UPDATE occurrences o JOIN sends c ON c.id = o.send_id JOIN sends s ON s.id = COALESCE(c.chases, c.id)
     SET o.state = ${moved('call off', 'o')}, o.failure = ?
     WHERE ${mayMove('call off', 'o')} AND NOT s.recurring`,
    [why],
  );
  await change(trx, "UPDATE automations SET state = 'paused', why_paused = ? WHERE state = 'on'", [why]);
  await change(
    trx,
    "UPDATE automation_runs SET state = 'lapsed', reason = ?, ended_at = NOW(3) WHERE state IN ('waiting', 'running')",
    [why],
  );
  await change(trx, "UPDATE sheet_sources SET try_at = '9999-01-01'");
  await change(trx, "UPDATE hooks_out SET state = 'paused', why_paused = ? WHERE state = 'on'", [why]);
  await change(
    trx,
    "UPDATE hook_deliveries SET state = 'failed', reason = ?, ended_at = NOW(3), lease_owner = NULL WHERE state IN ('waiting', 'sending')",
    [why],
  );
  await change(
    trx,
    "UPDATE deliveries SET state = 'called off', reason = ?, claimed_by = NULL WHERE state IN ('waiting', 'sending', 'resting')",
    [why],
  );
  await change(
    trx,
    `UPDATE notices SET mail_state = IF(mail_state IN ('waiting', 'daily', 'sending'), 'no', mail_state), mail_claim = NULL,
       push_state = IF(push_state IN ('waiting', 'daily', 'bundled', 'sending'), 'no', push_state), push_claim = NULL`,
  );
  await change(trx, 'UPDATE session_dates SET reminded = TRUE WHERE remind_at IS NOT NULL');
  await change(trx, "UPDATE sign_ups SET state = 'sent', claim = NULL WHERE state IN ('waiting', 'sending')");
}

/** The coordinator of a mail address who is still here; nobody where there is none. */
export async function coordinatorByMail(db: Database, mail: string): Promise<number | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    "SELECT id FROM people WHERE mail = ? AND role = 'coordinator' AND standing <> 'left'",
    [mail],
  );
  return row?.id;
}
