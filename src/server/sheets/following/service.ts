import { z } from 'zod';
import { listsIn, POSITION, type Following, type FoundList } from '../../../core/sheets/following.ts';
import { followingSchema, recordSourceSchema } from '../../../core/sheets/followingSchema.ts';
import { isCalculated } from '../../../core/sheets/sheet.ts';
import type { Actor } from '../../../core/rights/decide.ts';
import { requireOrganisation } from '../../accounts/require.ts';
import { record } from '../../audit/store.ts';
import { isDuplicate, transact, type Database } from '../../database/connection.ts';
import { emit } from '../../events/store.ts';
import { notFound, Problem } from '../../problem.ts';
import { seal, unseal } from '../../sealing.ts';
import type { Asking } from '../../sources/asking.ts';
import { lockSheet, sheetById } from '../store.ts';
import { askForRecords, FollowProblem, readFollowedSheet } from './reading.ts';
import * as store from './store.ts';

/** Sealed and never shown again; empty leaves the one there is. */
const secret = z.string().max(500);

export const followInputSchema = z
  .object({
    source: followingSchema,
    secret,
    /** Of what is followed already: the revision that was seen; null where it begins. */
    revision: z.int().positive().nullable(),
  })
  .strict();
export const followTrialSchema = recordSourceSchema.extend({ secret }).strict();
export const readNowSchema = z.object({ force: z.boolean() }).strict();

/** The secret that is kept, only where it still goes to the origin it was kept for. */
const keptFor = (kept: store.SheetSourceRow | undefined, url: string): Buffer | null =>
  kept && new URL(kept.source.url).origin === new URL(url).origin ? kept.sealed : null;

async function requireSheet(db: Database, actor: Actor, id: number): Promise<void> {
  requireOrganisation(actor);
  if (!(await sheetById(db, id))) throw notFound('record sheet');
}

/** What a sheet follows, for its page; null where it follows nothing. */
export async function followingOf(db: Database, sheetId: number): Promise<Following | null> {
  const row = await store.sourceOfSheet(db, sheetId);
  if (!row) return null;
  const { source, sealed, revision, readMs, tryMs, trouble, warnings } = row;
  return {
    ...source,
    hasSecret: sealed !== null,
    revision,
    records: await store.countFollowed(db, sheetId),
    readMs,
    nextMs: tryMs,
    trouble,
    warnings,
  };
}

/** The lists of rows that an address answers, before a sheet follows one. @throws 422 with why it cannot be read */
export async function tryFollowing(
  db: Database,
  actor: Actor,
  sheetId: number,
  { url, header, secret: given }: z.infer<typeof followTrialSchema>,
  asking: Asking,
): Promise<{ lists: FoundList[]; positions: { pointer: string; sample: string }[] }> {
  await requireSheet(db, actor, sheetId);
  const sealed = keptFor(await store.sourceOfSheet(db, sheetId), url);
  const sent = given !== '' ? given : sealed && unseal(asking.secret, sealed);
  try {
    const known = { etag: null, modified: null, position: '' };
    const said = await askForRecords({ url, header }, sent, known, asking.inside);
    const lists = listsIn(said?.answer);
    if (lists.length === 0) throw new FollowProblem('Its answer has no list of rows.');
    const top = Object.entries((said?.answer ?? {}) as Record<string, unknown>);
    return {
      lists,
      positions: url.includes(POSITION)
        ? top.flatMap(([name, value]) =>
            typeof value === 'string' || typeof value === 'number'
              ? [{ pointer: `/${name.replaceAll('~', '~0').replaceAll('/', '~1')}`, sample: String(value) }]
              : [],
          )
        : [],
    };
  } catch (error) {
    if (!(error instanceof FollowProblem)) throw error;
    throw new Problem(422, error.message, { errors: [{ field: 'url', detail: error.message }] });
  }
}

/**
 * Has a sheet follow an outside source, or follow it in another way, and reads it at once.
 *
 * @returns why it could not be read yet; null where it was. It is tried again either way
 */
export async function followSource(
  db: Database,
  actor: Actor,
  sheetId: number,
  { source, secret: given, revision }: z.infer<typeof followInputSchema>,
  asking: Asking,
): Promise<{ trouble: string | null }> {
  await requireSheet(db, actor, sheetId);
  await transact(db, async (trx) => {
    const sheet = await lockSheet(trx, sheetId);
    const gone = Object.keys(source.columns).find((id) => !sheet?.columns.some((column) => column.id === id));
    if (gone !== undefined) {
      const detail = 'A column is not there any more. Read the sheet again.';
      throw new Problem(422, detail, { errors: [{ field: 'columns', detail }] });
    }
    const calculated = sheet?.columns.find((column) => column.id in source.columns && isCalculated(column));
    if (calculated) {
      const detail = `${calculated.name} is calculated. Let something else be filled from the source.`;
      throw new Problem(422, detail, { errors: [{ field: 'columns', detail }] });
    }
    const kept = await store.sourceOfSheet(trx, sheetId);
    const sealed = given === '' ? keptFor(kept, source.url) : seal(asking.secret, given);
    if (revision === null) await store.insertSource(trx, sheetId, { source, sealed, madeBy: actor.id });
    else if (!(await store.saveSource(trx, sheetId, revision, source, sealed)))
      throw new Problem(409, 'Somebody changed what it follows a moment ago. Read it again.');
    await record(trx, { actorId: actor.id, action: 'follow', subject: 'record sheet', subjectId: sheetId });
    await emit(trx, 'sheet.changed', { sheet: sheetId });
  }).catch((error: unknown) => {
    if (!isDuplicate(error)) throw error;
    throw new Problem(409, 'It follows a source already. Read it again.');
  });
  const row = await store.sourceOfSheet(db, sheetId);
  return { trouble: row ? await readFollowedSheet(db, row, asking) : null };
}

/** Reads what a sheet follows now. @throws 409 where it follows nothing */
export async function readSheetNow(
  db: Database,
  actor: Actor,
  sheetId: number,
  force: boolean,
  asking: Asking,
): Promise<{ trouble: string | null }> {
  await requireSheet(db, actor, sheetId);
  const row = await store.sourceOfSheet(db, sheetId);
  if (!row) throw new Problem(409, 'It follows nothing.');
  return { trouble: await readFollowedSheet(db, row, asking, force ? 'forced' : 'asked') };
}

/** Has a sheet follow nothing any more; its records stay and are its own. */
export async function followNothing(db: Database, actor: Actor, sheetId: number): Promise<void> {
  await requireSheet(db, actor, sheetId);
  await transact(db, async (trx) => {
    if (!(await store.deleteSource(trx, sheetId))) return;
    await record(trx, {
      actorId: actor.id,
      action: 'follow no more',
      subject: 'record sheet',
      subjectId: sheetId,
    });
    await emit(trx, 'sheet.changed', { sheet: sheetId });
  });
}

/** Refuses to have columns calculated that are filled from the source. @throws 422 */
export async function requireUnfollowed(
  db: Database,
  sheetId: number,
  calculated: readonly string[],
): Promise<void> {
  const row = calculated.length === 0 ? undefined : await store.sourceOfSheet(db, sheetId);
  const both = calculated.find((id) => row && id in row.source.columns);
  if (both === undefined) return;
  const detail =
    'A column that is filled from the source cannot be calculated. Take it out of what is followed first.';
  throw new Problem(422, detail, { errors: [{ field: 'columns', detail }] });
}

/** Refuses to change by hand what comes from outside. @throws 409 with where it comes from */
export async function requireOwnColumns(
  db: Database,
  sheetId: number,
  recordId: number,
  changed: readonly string[] | 'all',
): Promise<void> {
  if ((await store.sourceKeyOf(db, recordId)) === null) return;
  const row = await store.sourceOfSheet(db, sheetId);
  if (!row) return;
  const from = new URL(row.source.url).host;
  if (changed === 'all')
    throw new Problem(409, `It comes from ${from}, and would come back. Take it out there.`);
  const theirs = changed.filter((column) => column in row.source.columns);
  if (theirs.length === 0) return;
  const detail = `It comes from ${from}: change it there.`;
  throw new Problem(409, detail, { errors: theirs.map((field) => ({ field, detail })) });
}
