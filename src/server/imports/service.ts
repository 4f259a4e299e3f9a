import { requireLookingAfterPeople } from '../accounts/require.ts';
import type { z } from 'zod';
import type { ClashDecision, OutcomeKind } from '../../core/imports/comparing.ts';
import { plainHeading } from '../../core/imports/columns.ts';
import {
  tooManyRows,
  UNDO_HOURS,
  type ImportLine,
  type ImportLines,
  type ImportSummary,
  type newImportSchema,
} from '../../core/imports/import.ts';
import { MOST_ROWS } from '../../core/imports/reading.ts';
import { checkRecord, rawRecordSchema, type RawRecord } from '../../core/imports/record.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { transact, type Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { compare } from './compare.ts';
import {
  countRows,
  countsOf,
  decideRows,
  deleteImport,
  importById,
  insertImport,
  insertRows,
  latestColumns,
  latestImports,
  linesOf,
  missingPeople,
  setMarksLeft,
  type StoredImport,
  type StoredLine,
} from './store.ts';

const PAGE = 100;

/** An import there is, held until the transaction ends where that is wished; a 404 problem otherwise. */
export async function requireImport(db: Database, id: number, lock = false): Promise<StoredImport> {
  const found = await importById(db, id, lock);
  if (!found) throw notFound('import');
  return found;
}

const overSince = (found: StoredImport): Problem =>
  new Problem(
    409,
    found.state === 'undone'
      ? 'This list was brought in and taken back. Choose the file again to bring it in anew.'
      : 'This list has been brought in already.',
  );

/** The summary of an import, with how much of each there is. */
export async function importSummary(db: Database, actor: Actor, id: number): Promise<ImportSummary> {
  requireLookingAfterPeople(actor);
  return summaryOf(db, await requireImport(db, id));
}

async function summaryOf(db: Database, found: StoredImport): Promise<ImportSummary> {
  const [rows, counts] = await Promise.all([countRows(db, found.id), countsOf(db, found.id)]);
  const undoUntilMs =
    found.state === 'applied' && found.appliedMs !== null ? found.appliedMs + UNDO_HOURS * 3_600_000 : null;
  return { ...found, rows, counts, undoUntilMs };
}

/** The latest imports, the newest first. */
export async function listImports(db: Database, actor: Actor): Promise<ImportSummary[]> {
  requireLookingAfterPeople(actor);
  const found = await latestImports(db, 12);
  return Promise.all(found.map((each) => summaryOf(db, each)));
}

/** What each heading was matched with in earlier files, the latest first to hold; by the heading in plain letters. */
export async function rememberedColumns(db: Database, actor: Actor): Promise<Record<string, string>> {
  requireLookingAfterPeople(actor);
  const remembered: Record<string, string> = {};
  for (const columns of await latestColumns(db, 20))
    for (const [heading, column] of Object.entries(columns)) remembered[plainHeading(heading)] ??= column;
  return remembered;
}

export async function beginImport(
  db: Database,
  actor: Actor,
  made: z.infer<typeof newImportSchema>,
): Promise<number> {
  requireLookingAfterPeople(actor);
  return insertImport(db, { ...made, madeBy: actor.id });
}

/** Takes rows of a file whose others have come or will come. */
export async function addRows(
  db: Database,
  actor: Actor,
  id: number,
  found: readonly RawRecord[],
): Promise<void> {
  requireLookingAfterPeople(actor);
  const begun = await requireImport(db, id);
  if (begun.madeBy !== actor.id) throw new Problem(403, 'Somebody else is bringing in this list.');
  if (begun.state !== 'open')
    throw new Problem(409, 'This list is complete. Choose the file again for another.');
  if ((await countRows(db, id)) + found.length > MOST_ROWS) throw new Problem(422, tooManyRows);
  await insertRows(db, id, found);
}

/** Compares what came with the directory as it is now. */
export async function compareImport(db: Database, actor: Actor, id: number): Promise<ImportSummary> {
  requireLookingAfterPeople(actor);
  const found = await requireImport(db, id);
  if (found.state === 'applied' || found.state === 'undone') throw overSince(found);
  if ((await countRows(db, id)) === 0) throw new Problem(422, 'There are no rows. Choose the file again.');
  await compare(db, found);
  return importSummary(db, actor, id);
}

export async function chooseMarksLeft(
  db: Database,
  actor: Actor,
  id: number,
  marksLeft: boolean,
): Promise<ImportSummary> {
  requireLookingAfterPeople(actor);
  const found = await requireImport(db, id);
  if (found.state === 'applied' || found.state === 'undone') throw overSince(found);
  await setMarksLeft(db, id, marksLeft);
  return importSummary(db, actor, id);
}

/** Decides about one clash, or about all of which the same can be said, and compares anew. */
export async function decideClash(
  db: Database,
  actor: Actor,
  id: number,
  line: number,
  { decision, all }: { decision: ClashDecision; all: boolean },
): Promise<ImportSummary> {
  requireLookingAfterPeople(actor);
  const found = await requireImport(db, id);
  if (found.state === 'applied' || found.state === 'undone') throw overSince(found);
  await decideRows(db, id, all ? null : line, decision);
  await compare(db, found);
  return importSummary(db, actor, id);
}

const SHOWN = ['sortName', 'greeting', 'mail', 'station', 'occupation', 'zone', 'joinedOn'] as const;

function readLine({ raw, changes, choices, ...line }: StoredLine): ImportLine {
  const given = rawRecordSchema.parse(JSON.parse(raw));
  const checked = checkRecord(given, 'day first');
  const said = 'record' in checked ? checked.record : given;
  const detail = [...SHOWN.map((field) => said[field] ?? ''), ...Object.values(said.attributes ?? {})];
  return {
    ...line,
    name: said.name,
    detail: detail.filter((text) => text.trim() !== '').join(', '),
    changes: changes === null ? [] : (JSON.parse(changes) as ImportLine['changes']),
    choices: choices === null ? [] : (JSON.parse(choices) as ImportLine['choices']),
  };
}

/** A page of the rows that come to one thing. */
export async function importLines(
  db: Database,
  actor: Actor,
  id: number,
  kind: OutcomeKind,
  after: number,
): Promise<ImportLines> {
  requireLookingAfterPeople(actor);
  await requireImport(db, id);
  const found = await linesOf(db, id, kind, after, PAGE + 1);
  const shown = found.slice(0, PAGE);
  return { lines: shown.map(readLine), next: found.length > PAGE ? (shown.at(-1)?.line ?? null) : null };
}

/** A page of those who are here and not in the file. */
export async function importMissing(
  db: Database,
  actor: Actor,
  id: number,
  after: { name: string; id: number } | null,
): Promise<{
  people: { id: number; name: string; station: string | null }[];
  next: { name: string; id: number } | null;
}> {
  requireLookingAfterPeople(actor);
  await requireImport(db, id);
  const found = await missingPeople(db, id, after, PAGE + 1);
  const people = found.slice(0, PAGE);
  const last = people.at(-1);
  return { people, next: found.length > PAGE && last ? { name: last.name, id: last.id } : null };
}

/** Puts a list away that was not brought in. */
export async function discardImport(db: Database, actor: Actor, id: number): Promise<void> {
  requireLookingAfterPeople(actor);
  await transact(db, async (trx) => {
    const found = await requireImport(trx, id, true);
    if (found.state === 'applied' || found.state === 'undone') throw overSince(found);
    await deleteImport(trx, id);
  });
}
