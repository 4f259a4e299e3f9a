import type { z } from 'zod';
import { audienceWords } from '../../core/audience/words.ts';
import type { FollowedCalendar, TriedCalendar } from '../../core/calendar/followed.ts';
import type {
  FollowedInput,
  followedChangeSchema,
  triedCalendarSchema,
} from '../../core/calendar/followedSchema.ts';
import { CalendarProblem } from '../../core/calendar/incoming.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { requireCalendar } from '../calendar/visible.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { namesOfPeople } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import { takeOutAll } from './applying.ts';
import { bringIn, fetchCalendar, readFollowed, understand } from './reading.ts';
import * as store from './store.ts';

const LISTED = 12;

/** What cannot be read, as a problem at its field. */
const asProblem =
  (field: 'url' | 'text') =>
  (error: unknown): never => {
    if (!(error instanceof CalendarProblem)) throw error;
    throw new Problem(422, error.message, { errors: [{ field, detail: error.message }] });
  };

interface Whence {
  url: string | null;
  text: string | null;
}

/** The text of a calendar: fetched, or as it was given. */
async function textOf({ url, text }: Whence, inside: readonly string[]) {
  if (url === null) return { text: text ?? '', etag: null, modified: null };
  const answer = await fetchCalendar(url, { etag: null, modified: null }, inside).catch(asProblem('url'));
  if (answer.same) throw new Problem(422, 'It answers that nothing has changed, without having been asked.');
  return answer;
}

/** What is in a calendar, before it is brought in. Nothing is kept of it. */
export async function tryCalendar(
  db: Database,
  actor: Actor,
  whence: z.infer<typeof triedCalendarSchema>,
  inside: readonly string[],
): Promise<TriedCalendar> {
  requireCalendar(actor);
  const nowMs = await databaseNow(db);
  const { text } = await textOf(whence, inside);
  const { name, sessions, warnings } = await understand(db, text, nowMs).catch(
    asProblem(whence.url === null ? 'text' : 'url'),
  );
  const ahead = sessions
    .filter((session) => !session.calledOff)
    .map(({ title, zone, dates }) => ({ title, zone, dates: dates.filter((date) => date.startMs > nowMs) }))
    .flatMap(({ dates: [first, ...more], ...rest }) =>
      first ? [{ ...rest, startMs: first.startMs, dates: more.length + 1 }] : [],
    )
    .sort((a, b) => a.startMs - b.startMs);
  return { name: name.slice(0, 80), sessions: ahead.slice(0, LISTED), total: ahead.length, warnings };
}

const noted = async (
  trx: Database,
  actor: Actor,
  action: string,
  followed: store.FollowedRow,
): Promise<void> => {
  await record(trx, {
    actorId: actor.id,
    action,
    subject: 'followed calendar',
    subjectId: followed.id,
    detail: { name: followed.name },
  });
  await emit(trx, 'calendar.followed', { followed: followed.id });
};

/** The calendars that are followed, by name. */
export async function listFollowed(db: Database, actor: Actor): Promise<FollowedCalendar[]> {
  requireCalendar(actor);
  const [all, ahead, now] = await Promise.all([
    store.allFollowed(db),
    store.sessionsAhead(db),
    audienceContext(db),
  ]);
  const [names, makers] = await Promise.all([
    audienceNames(
      db,
      now,
      all.map(({ audience }) => audience),
    ),
    namesOfPeople(
      db,
      all.flatMap(({ madeBy }) => madeBy ?? []),
    ),
  ]);
  return all.map((row) => ({
    id: row.id,
    revision: row.revision,
    name: row.name,
    url: row.url,
    everyMinutes: row.everyMinutes,
    audience: row.audience,
    remindMinutes: row.remindMinutes,
    whomWords: audienceWords(row.audience, names),
    madeBy: row.madeBy === null ? null : (makers.get(row.madeBy) ?? null),
    sessions: ahead.get(row.id) ?? 0,
    readMs: row.readMs,
    nextMs: row.url === null ? null : row.tryMs,
    trouble: row.trouble,
    warnings: row.warnings,
  }));
}

/**
 * Begins to follow a calendar, or brings in a file of one, and puts its sessions in at once.
 *
 * @throws 422 by field where it cannot be read; then nothing is kept
 */
export async function follow(
  db: Database,
  actor: Actor,
  { text: given, ...input }: FollowedInput,
  inside: readonly string[],
): Promise<{ id: number }> {
  requireCalendar(actor);
  const said = await textOf({ url: input.url, text: given }, inside);
  const field = input.url === null ? 'text' : 'url';
  // Read before anything is kept: what is no calendar is refused.
  await understand(db, said.text, await databaseNow(db)).catch(asProblem(field));
  const id = await transact(db, async (trx) => {
    const made = await store.insertFollowed(trx, { ...input, madeBy: actor.id });
    const row = await store.followedById(trx, made);
    if (row) await noted(trx, actor, 'follow', row);
    return made;
  });
  await bringIn(db, id, said, true);
  return { id };
}

async function required(db: Database, actor: Actor, id: number): Promise<store.FollowedRow> {
  requireCalendar(actor);
  const row = await store.followedById(db, id);
  if (!row) throw notFound('calendar');
  return row;
}

/**
 * Changes how a calendar is followed; it is read anew at once. Whom it is for holds for sessions that are new from then on.
 *
 * @throws 409 where somebody changed it meanwhile, 422 where it cannot be read
 */
export async function changeFollowing(
  db: Database,
  actor: Actor,
  id: number,
  { revision, text: given, ...input }: z.infer<typeof followedChangeSchema>,
  inside: readonly string[],
): Promise<void> {
  const row = await required(db, actor, id);
  if ((row.url === null) !== (input.url === null))
    throw new Problem(422, 'A file stays a file, and an address an address. Follow the other one beside it.');
  const moved = input.url !== row.url || given !== null;
  const said = moved ? await textOf({ url: input.url, text: given }, inside) : null;
  if (said)
    await understand(db, said.text, await databaseNow(db)).catch(
      asProblem(input.url === null ? 'text' : 'url'),
    );
  await transact(db, async (trx) => {
    if (!(await store.saveFollowed(trx, id, revision, input)))
      throw new Problem(409, 'Somebody changed this calendar a moment ago. Look at it as it is now.');
    await noted(trx, actor, 'change', row);
  });
  if (said) await bringIn(db, id, said, true);
}

/** Reads a calendar now, though it takes most of its sessions out. @throws 409 where it cannot be read, in words */
export async function readNow(
  db: Database,
  actor: Actor,
  id: number,
  inside: readonly string[],
): Promise<void> {
  const trouble = await readFollowed(db, await required(db, actor, id), inside, true);
  if (trouble !== null) throw new Problem(409, trouble);
}

/** Follows a calendar no more. Its sessions ahead stay as our own, or go. */
export async function followNoMore(db: Database, actor: Actor, id: number, keep: boolean): Promise<void> {
  requireCalendar(actor);
  await transact(db, async (trx) => {
    const row = await store.followedById(trx, id, true);
    if (!row) throw notFound('calendar');
    if (keep) await store.releaseSessions(trx, id);
    else await takeOutAll(trx, row, await databaseNow(trx));
    await noted(trx, actor, 'follow no more', row);
    await store.deleteFollowed(trx, id);
  });
}
