import { calculator } from '../../../core/sheets/formula.ts';
import { readAnswer, type FollowedSource, type ReadRow } from '../../../core/sheets/followingSchema.ts';
import { POSITION, tellsWhatChanged } from '../../../core/sheets/following.ts';
import { count } from '../../../core/words.ts';
import { transact, type Database } from '../../database/connection.ts';
import { emit } from '../../events/store.ts';
import { OutsideError, requestOutside } from '../../outside/request.ts';
import { unseal } from '../../sealing.ts';
import type { Asking } from '../../sources/asking.ts';
import { changeRecord, deleteRecordById, lockSheet, sheetById } from '../store.ts';
import * as store from './store.ts';

const TIMEOUT_MS = 20_000;
const MOST_BYTES = 20_000_000;
/** Records written in one transaction. */
const PIECE = 500;
/** Answers of what came after a position that one reading takes. */
const MOST_ANSWERS = 200;
/** So many records at once are not taken out unasked where they are more than half of them. */
const MANY = 10;

/** Whether a source is read since it is due, or since somebody asked for it. */
export type ReadWhy = 'due' | 'asked' | 'forced';

/** Why a source could not be read, in words. */
export class FollowProblem extends Error {}

const WHY: Record<OutsideError['kind'], string> = {
  inside: 'That address is on the internal network, and the operator has not listed it.',
  'too large': 'It answers more than 20 MB.',
  'too slow': 'It did not answer within 20 seconds.',
  unreachable: 'It cannot be reached.',
};

interface Said {
  answer: unknown;
  etag: string | null;
  modified: string | null;
}

const headerOf = (value: string | string[] | undefined): string | null =>
  (Array.isArray(value) ? value[0] : value) ?? null;

/**
 * Asks a source for its records (RFC 9110, conditional where it was read before).
 *
 * @returns null where it answers that nothing has changed
 * @throws a FollowProblem with why it could not be read, in words
 */
export async function askForRecords(
  { url, header }: Pick<FollowedSource, 'url' | 'header'>,
  secret: string | null,
  known: { etag: string | null; modified: string | null; position: string },
  inside: readonly string[],
): Promise<Said | null> {
  const answer = await requestOutside(url.replaceAll(POSITION, encodeURIComponent(known.position)), {
    inside,
    timeoutMs: TIMEOUT_MS,
    most: MOST_BYTES,
    headers: {
      accept: 'application/json',
      ...(header !== '' && secret !== null ? { [header]: secret } : {}),
      ...(known.etag === null ? {} : { 'if-none-match': known.etag }),
      ...(known.modified === null ? {} : { 'if-modified-since': known.modified }),
    },
  }).catch((error: unknown) => {
    if (error instanceof OutsideError) throw new FollowProblem(WHY[error.kind]);
    throw error;
  });
  if (answer.status === 304) return null;
  if (answer.status >= 300 && answer.status < 400)
    throw new FollowProblem('It has moved to another address. Give that address instead.');
  if (answer.status !== 200) throw new FollowProblem(`It answers ${answer.status}.`);
  try {
    return {
      answer: JSON.parse(answer.body.toString('utf8')) as unknown,
      etag: headerOf(answer.headers.etag),
      modified: headerOf(answer.headers['last-modified']),
    };
  } catch {
    throw new FollowProblem('It answers something that is no JSON.');
  }
}

/** The columns that come from outside as they are there now; those that do not, and what was written in them, stay. */
function mergedCells(
  before: Record<string, string>,
  { cells }: ReadRow,
  followed: readonly string[],
): Record<string, string> {
  const kept = Object.entries(before).filter(([column]) => !followed.includes(column));
  return { ...Object.fromEntries(kept), ...cells };
}

/** Has some records of a sheet be as they are at the source, each told of as if it were changed by hand. */
async function applyRows(
  db: Database,
  sheetId: number,
  source: FollowedSource,
  piece: ReadRow[],
): Promise<void> {
  await transact(db, async (trx) => {
    // Held, so that two readings of one sheet never write the same record.
    const sheet = await lockSheet(trx, sheetId);
    if (!sheet) return;
    const calculate = calculator(sheet.columns);
    const known = await store.recordsByKeys(
      trx,
      sheetId,
      piece.map((row) => row.key),
    );
    const followed = Object.keys(source.columns);
    const comeAndGone: number[] = [];
    for (const row of piece) {
      const held = known.get(row.key);
      if (!held) {
        if (!row.gone)
          comeAndGone.push(await store.insertFollowedRecord(trx, sheetId, row.key, calculate(row.cells)));
      } else if (row.gone) {
        await deleteRecordById(trx, sheetId, held.id);
        comeAndGone.push(held.id);
      } else {
        const after = calculate(mergedCells(held.cells, row, followed));
        const differ = [...new Set([...Object.keys(held.cells), ...Object.keys(after)])].filter(
          (column) => (held.cells[column] ?? '') !== (after[column] ?? ''),
        );
        if (differ.length === 0) continue;
        await changeRecord(trx, held.id, held.cells, after, null);
        await emit(trx, 'records.changed', {
          sheet: sheetId,
          records: [held.id],
          form: false,
          changed: Object.fromEntries(
            differ.map((column) => [
              column,
              { before: held.cells[column] ?? '', after: after[column] ?? '' },
            ]),
          ),
        });
      }
    }
    if (comeAndGone.length > 0)
      await emit(trx, 'records.changed', { sheet: sheetId, records: comeAndGone, form: false });
  });
}

/** Takes out what is not at the source any more. @throws a FollowProblem where that would be most of it, and was not asked for */
async function takeOutAbsent(
  db: Database,
  sheetId: number,
  there: readonly ReadRow[],
  force: boolean,
): Promise<void> {
  const keys = new Set(there.map((row) => row.key));
  const all = await store.keysOf(db, sheetId);
  const absent = [...all].flatMap(([key, id]) => (keys.has(key) ? [] : [id]));
  if (absent.length > MANY && absent.length > all.size / 2 && !force)
    throw new FollowProblem(
      `It would take out ${count(absent.length, 'record', 'records')} of ${all.size}. Read it now by hand if that is right.`,
    );
  for (let from = 0; from < absent.length; from += PIECE) {
    const some = absent.slice(from, from + PIECE);
    await transact(db, async (trx) => {
      await lockSheet(trx, sheetId);
      for (const id of some) await deleteRecordById(trx, sheetId, id);
      await emit(trx, 'records.changed', { sheet: sheetId, records: some, form: false });
    });
  }
}

async function bringIn(db: Database, row: store.SheetSourceRow, asking: Asking, why: ReadWhy): Promise<void> {
  const { sheetId, source } = row;
  const secret = row.sealed && unseal(asking.secret, row.sealed);
  const again = why === 'due' ? { etag: row.etag, modified: row.modified } : { etag: null, modified: null };
  const steps = tellsWhatChanged(source.url);
  let { position } = row;
  const warnings = new Set<string>();
  for (let at = 0; at < MOST_ANSWERS; at++) {
    const known = steps ? { etag: null, modified: null, position } : { ...again, position };
    const said = await askForRecords(source, secret, known, asking.inside);
    const sheet = await sheetById(db, sheetId);
    if (!sheet) return;
    if (!said) {
      await store.markSame(db, sheetId);
      return;
    }
    let read: ReturnType<typeof readAnswer>;
    try {
      read = readAnswer(source, sheet.columns, said.answer);
    } catch (error) {
      throw new FollowProblem(error instanceof Error ? error.message : String(error));
    }
    for (const warning of read.warnings) warnings.add(warning);
    if (!steps) await takeOutAbsent(db, sheetId, read.rows, why === 'forced');
    for (let from = 0; from < read.rows.length; from += PIECE)
      await applyRows(db, sheetId, source, read.rows.slice(from, from + PIECE));
    const moved = read.after !== null && read.after !== position;
    position = read.after ?? position;
    // What was read is noted at once: killed here, it goes on from there.
    await store.markRead(db, row, {
      etag: steps ? null : said.etag,
      modified: steps ? null : said.modified,
      position,
      warnings: [...warnings].slice(0, 20),
    });
    if (!steps || !moved || read.rows.length === 0) return;
  }
}

/**
 * Reads what a sheet follows, and has its records be as they are there. What cannot be read is noted with it, and its records stay.
 *
 * @param why asked for by somebody, it is read anew though nothing changed there; forced, most of it may go as well
 * @returns why it could not be read; null where it could
 */
export async function readFollowedSheet(
  db: Database,
  row: store.SheetSourceRow,
  asking: Asking,
  why: ReadWhy = 'due',
): Promise<string | null> {
  try {
    await bringIn(db, row, asking, why);
    await emit(db, 'sheet.changed', { sheet: row.sheetId });
    return null;
  } catch (error) {
    if (!(error instanceof FollowProblem)) throw error;
    await transact(db, async (trx) => {
      await store.markTrouble(trx, row.sheetId, error.message);
      await emit(trx, 'sheet.changed', { sheet: row.sheetId });
    });
    return error.message;
  }
}

/** Reads the sheets whose source is due; says of how many. What fails by an error of ours is told, and tried again after a while. */
export async function readDueSheets(
  db: Database,
  asking: Asking,
  onError: (error: unknown, sheet: number) => void,
): Promise<number> {
  for (let read = 0; ; read++) {
    const due = await transact(db, (trx) => store.claimSource(trx));
    if (!due) return read;
    await readFollowedSheet(db, due, asking).catch(async (error: unknown) => {
      onError(error, due.sheetId);
      await store.markTrouble(db, due.sheetId, 'Something went wrong here while it was read.');
    });
  }
}
