import { normalMail } from '../../core/people/mailAddress.ts';
import type { ClashDecision, Known, Outcome, OutcomeKind } from '../../core/imports/comparing.ts';
import type { ImportState } from '../../core/imports/import.ts';
import { rawRecordSchema, type DateOrder, type RawRecord } from '../../core/imports/record.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export interface StoredImport {
  id: number;
  fileName: string;
  dateOrder: DateOrder;
  state: ImportState;
  marksLeft: boolean;
  missing: number;
  newStations: string[];
  digest: string;
  madeBy: number;
  by: string;
  madeMs: number;
  appliedMs: number | null;
  undoneMs: number | null;
}

type ImportRow = Omit<StoredImport, 'marksLeft' | 'newStations'> & { marksLeft: number; newStations: string };

const IMPORT = `i.id, i.file_name AS fileName, i.date_order AS dateOrder, i.state, i.marks_left AS marksLeft, i.missing,
  i.new_stations AS newStations, i.digest, i.made_by AS madeBy, p.name AS \`by\`, ${ms('i.made_at')} AS madeMs,
  ${ms('i.applied_at')} AS appliedMs, ${ms('i.undone_at')} AS undoneMs`;

const readImport = (row: ImportRow): StoredImport => ({
  ...row,
  marksLeft: row.marksLeft === 1,
  newStations: JSON.parse(row.newStations) as string[],
});

export async function importById(db: Database, id: number, lock = false): Promise<StoredImport | undefined> {
  const [row] = await rows<ImportRow>(
    db,
    `SELECT ${IMPORT} FROM imports i JOIN people p ON p.id = i.made_by WHERE i.id = ?${lock ? ' FOR UPDATE' : ''}`,
    [id],
  );
  return row && readImport(row);
}

/** The latest imports that were compared, the newest first. */
export async function latestImports(db: Database, most: number): Promise<StoredImport[]> {
  const found = await rows<ImportRow>(
    db,
    `SELECT ${IMPORT} FROM imports i JOIN people p ON p.id = i.made_by WHERE i.state <> 'open' ORDER BY i.id DESC LIMIT ?`,
    [most],
  );
  return found.map(readImport);
}

/** What the headings of the latest files were matched with. */
export async function latestColumns(db: Database, most: number): Promise<Record<string, string>[]> {
  const found = await rows<{ columns: string }>(
    db,
    "SELECT columns FROM imports WHERE state <> 'open' ORDER BY id DESC LIMIT ?",
    [most],
  );
  return found.map((row) => JSON.parse(row.columns) as Record<string, string>);
}

export async function insertImport(
  db: Database,
  made: { fileName: string; columns: Record<string, string>; dateOrder: DateOrder; madeBy: number },
): Promise<number> {
  const [id] = await db('imports').insert({
    file_name: made.fileName,
    columns: JSON.stringify(made.columns),
    date_order: made.dateOrder,
    made_by: made.madeBy,
  });
  return id ?? 0;
}

/** Adds rows; one that came already is written over, so that a request can be sent again. */
export async function insertRows(db: Database, importId: number, found: readonly RawRecord[]): Promise<void> {
  await db('import_rows')
    .insert(found.map((raw) => ({ import_id: importId, line: raw.line, raw: JSON.stringify(raw) })))
    .onConflict(['import_id', 'line'])
    .merge(['raw']);
}

export async function countRows(db: Database, importId: number): Promise<number> {
  const [row] = await rows<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM import_rows WHERE import_id = ?', [
    importId,
  ]);
  return row?.n ?? 0;
}

export async function countsOf(db: Database, importId: number): Promise<Record<OutcomeKind, number>> {
  const found = await rows<{ outcome: OutcomeKind; n: number }>(
    db,
    'SELECT outcome, COUNT(*) AS n FROM import_rows WHERE import_id = ? AND outcome IS NOT NULL GROUP BY outcome',
    [importId],
  );
  const counts: Record<OutcomeKind, number> = { new: 0, changed: 0, returns: 0, same: 0, clash: 0, wrong: 0 };
  for (const { outcome, n } of found) counts[outcome] = n;
  return counts;
}

/** Rows as they came with what was decided about them, page by page in the order of the file. */
export async function* rawRows(
  db: Database,
  importId: number,
): AsyncGenerator<{ raw: RawRecord; decision: ClashDecision | null }[]> {
  for (let after = 0; ;) {
    const found = await rows<{ line: number; raw: string; decision: ClashDecision | null }>(
      db,
      'SELECT line, raw, decision FROM import_rows WHERE import_id = ? AND line > ? ORDER BY line LIMIT 2000',
      [importId, after],
    );
    const last = found.at(-1);
    if (!last) return;
    yield found.map((row) => ({ raw: rawRecordSchema.parse(JSON.parse(row.raw)), decision: row.decision }));
    after = last.line;
  }
}

/** Writes what rows come to. */
export async function setOutcomes(db: Database, importId: number, found: readonly Outcome[]): Promise<void> {
  await change(
    db,
    `UPDATE import_rows r JOIN JSON_TABLE(?, '$[*]' COLUMNS (
       line INT PATH '$.line', kind VARCHAR(10) PATH '$.kind', person_id BIGINT PATH '$.personId',
       changes JSON PATH '$.changes', why VARCHAR(1000) PATH '$.why', choices JSON PATH '$.choices')) j
       ON r.line = j.line
     SET r.outcome = j.kind, r.person_id = j.person_id, r.changes = j.changes, r.why = j.why, r.choices = j.choices
     WHERE r.import_id = ?`,
    [JSON.stringify(found.map((each) => ({ ...each, why: each.why.slice(0, 1000) }))), importId],
  );
}

export async function setCompared(
  db: Database,
  id: number,
  found: { missing: number; newStations: string[]; digest: string },
): Promise<void> {
  await change(
    db,
    "UPDATE imports SET state = 'compared', missing = ?, new_stations = ?, digest = ? WHERE id = ? AND state IN ('open', 'compared')",
    [found.missing, JSON.stringify(found.newStations), found.digest, id],
  );
}

export async function setMarksLeft(db: Database, id: number, marksLeft: boolean): Promise<void> {
  await change(db, 'UPDATE imports SET marks_left = ? WHERE id = ?', [marksLeft, id]);
}

export async function setApplied(db: Database, id: number): Promise<void> {
  await change(db, "UPDATE imports SET state = 'applied', applied_at = NOW(3) WHERE id = ?", [id]);
}

export async function setUndone(db: Database, id: number): Promise<void> {
  await change(db, "UPDATE imports SET state = 'undone', undone_at = NOW(3) WHERE id = ?", [id]);
}

export async function deleteImport(db: Database, id: number): Promise<void> {
  await change(db, 'DELETE FROM imports WHERE id = ?', [id]);
}

/** Forgets the rows of what was brought in and can no longer be undone, and files nobody brought in for a week. */
export async function forgetImports(db: Database, undoHours: number): Promise<void> {
  await change(
    db,
    "DELETE FROM imports WHERE state IN ('open', 'compared') AND made_at < NOW(3) - INTERVAL 7 DAY",
  );
  for (const table of ['import_rows', 'import_effects'])
    await change(
      db,
      `DELETE FROM ${table} WHERE import_id IN (SELECT id FROM imports
         WHERE state IN ('applied', 'undone') AND applied_at < NOW(3) - INTERVAL ? HOUR)`,
      [undoHours],
    );
}

export interface StoredLine {
  line: number;
  kind: OutcomeKind;
  raw: string;
  personId: number | null;
  changes: string | null;
  why: string;
  choices: string | null;
  decision: ClashDecision | null;
}

export function linesOf(
  db: Database,
  importId: number,
  kind: OutcomeKind,
  after: number,
  most: number,
): Promise<StoredLine[]> {
  return rows(
    db,
    `SELECT line, outcome AS kind, raw, person_id AS personId, changes, why, choices, decision FROM import_rows
     WHERE import_id = ? AND outcome = ? AND line > ? ORDER BY line LIMIT ?`,
    [importId, kind, after, most],
  );
}

/** What is decided about a clash; about every one of which it can be said, where no line is given. */
export async function decideRows(
  db: Database,
  importId: number,
  line: number | null,
  decision: ClashDecision,
): Promise<void> {
  await change(
    db,
    `UPDATE import_rows SET decision = ? WHERE import_id = ? AND (line = ? OR (? IS NULL AND outcome = 'clash'))
       AND JSON_CONTAINS(choices, JSON_QUOTE(?))`,
    [decision, importId, line, line, decision],
  );
}

/** Everybody there is, as a list is compared with. */
export async function* everybodyKnown(db: Database): AsyncGenerator<Known[]> {
  for (let after = 0; ;) {
    const found = await rows<
      Omit<Known, 'left' | 'contact' | 'attributes' | 'furtherMail'> & {
        furtherMail: string | null;
        left: number;
        contact: number;
        attributes: string | null;
      }
    >(
      db,
      `SELECT p.id, p.name, p.sort_name AS sortName, p.greeting, p.mail, s.name AS station, p.occupation, p.zone,
         DATE_FORMAT(p.joined_on, '%Y-%m-%d') AS joinedOn, DATE_FORMAT(p.guest_until, '%Y-%m-%d') AS guestUntil, p.standing = 'left' AS \`left\`,
         p.linked_to IS NOT NULL AS contact,
         (SELECT JSON_OBJECTAGG(a.name, a.value) FROM person_attributes a WHERE a.person_id = p.id) AS attributes,
         (SELECT JSON_ARRAYAGG(a.mail) FROM person_addresses a WHERE a.person_id = p.id) AS furtherMail
       FROM people p LEFT JOIN stations s ON s.id = p.station_id
       WHERE p.id > ? AND p.erased_at IS NULL ORDER BY p.id LIMIT 5000`,
      [after],
    );
    const last = found.at(-1);
    if (!last) return;
    yield found.map((row) => ({
      ...row,
      left: row.left === 1,
      contact: row.contact === 1,
      furtherMail: row.furtherMail === null ? [] : (JSON.parse(row.furtherMail) as string[]).map(normalMail),
      attributes: row.attributes === null ? {} : (JSON.parse(row.attributes) as Record<string, string>),
    }));
    after = last.id;
  }
}

/** A page of those who are here and about whom no row of a file is, by name. */
export function missingPeople(
  db: Database,
  importId: number,
  after: { name: string; id: number } | null,
  most: number,
): Promise<{ id: number; name: string; station: string | null }[]> {
  return rows(
    db,
    `SELECT p.id, p.name, s.name AS station FROM people p LEFT JOIN stations s ON s.id = p.station_id
     WHERE ${MISSING} AND (? IS NULL OR (p.name, p.id) > (?, ?)) ORDER BY p.name, p.id LIMIT ?`,
    [importId, after?.id ?? null, after?.name ?? '', after?.id ?? 0, most],
  );
}

/**
 * Whom a file can mark as left by not naming them. Coordinators are never: a list cannot lock everybody out. Guests are in no
 * list of those of the organisation, and leave on their last day.
 */
const MISSING = `p.standing <> 'left' AND p.linked_to IS NULL AND p.role <> 'coordinator' AND p.guest_until IS NULL AND p.id NOT IN (
  SELECT r.person_id FROM import_rows r WHERE r.import_id = ? AND r.person_id IS NOT NULL)`;

/** As `missingPeople`, all of them by id. */
export async function missingIds(db: Database, importId: number): Promise<number[]> {
  const found = await rows<{ id: number }>(db, `SELECT p.id FROM people p WHERE ${MISSING} ORDER BY p.id`, [
    importId,
  ]);
  return found.map((row) => row.id);
}
