import { AHEAD_DAYS } from '../../core/calendar/dates.ts';
import { CalendarProblem, readCalendar, type IncomingCalendar } from '../../core/calendar/incoming.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { OutsideError, requestOutside } from '../outside/request.ts';
import { organisation } from '../people/store.ts';
import { inWorker } from '../workers/run.ts';
import { applyCalendar } from './applying.ts';
import * as store from './store.ts';

const DAY_MS = 86_400_000;
const TIMEOUT_MS = 20_000;
const MOST_BYTES = 5_000_000;
/** Dates further ahead are laid out at least so often, whether anything changed or not. */
const LAY_EVERY_MS = 20 * 3_600_000;

/** What an address answered: a calendar, or that it is as it was. */
type Answer = { same: true } | { same: false; text: string; etag: string | null; modified: string | null };

const headerOf = (value: string | string[] | undefined): string | null =>
  (Array.isArray(value) ? value[0] : value) ?? null;

const WHY: Record<OutsideError['kind'], string> = {
  inside: 'That address is on the internal network, and the operator has not listed it.',
  'too large': 'It is larger than 5 MB.',
  'too slow': 'It did not answer within 20 seconds.',
  unreachable: 'It cannot be reached.',
};

/**
 * Fetches a calendar (RFC 9110, conditional where it was read before).
 *
 * @throws a CalendarProblem with why it could not be, in words
 */
export async function fetchCalendar(
  url: string,
  known: { etag: string | null; modified: string | null },
  inside: readonly string[],
): Promise<Answer> {
  const answer = await requestOutside(url, {
    inside,
    timeoutMs: TIMEOUT_MS,
    most: MOST_BYTES,
    headers: {
      accept: 'text/calendar, */*;q=0.1',
      ...(known.etag === null ? {} : { 'if-none-match': known.etag }),
      ...(known.modified === null ? {} : { 'if-modified-since': known.modified }),
    },
  }).catch((error: unknown) => {
    if (error instanceof OutsideError) throw new CalendarProblem(WHY[error.kind]);
    throw error;
  });
  if (answer.status === 304) return { same: true };
  if (answer.status >= 300 && answer.status < 400)
    throw new CalendarProblem(
      `It has moved to ${headerOf(answer.headers.location)?.slice(0, 150) ?? 'another address'}. Give that address instead.`,
    );
  if (answer.status !== 200) throw new CalendarProblem(`It answers ${answer.status}.`);
  return {
    same: false,
    text: answer.body.toString('utf8'),
    etag: headerOf(answer.headers.etag),
    modified: headerOf(answer.headers['last-modified']),
  };
}

/** What recurs may take long to lay out, whatever its length; the rest is read in less time than a worker takes to start. */
const SHORT = 50_000;

/**
 * Reads a calendar a year ahead, on the clock of the organisation where it has none; in a worker where that may take long, as it is read
 * in processes that others wait for.
 *
 * @throws a CalendarProblem where it is none, or takes too long
 */
export async function understand(db: Database, text: string, nowMs: number): Promise<IncomingCalendar> {
  const zone = (await organisation(db))?.zone ?? 'UTC';
  const span = { zone, fromMs: nowMs - DAY_MS, toMs: nowMs + AHEAD_DAYS * DAY_MS };
  if (text.length < SHORT && !/^RRULE/im.test(text)) return readCalendar(text, span);
  const read = await inWorker(
    'calendar',
    { text, ...span },
    {
      busy: () => new CalendarProblem('Too much is being read just now. It is tried again later.'),
      late: () => new CalendarProblem('It takes too long to read.'),
    },
  );
  if ('problem' in read) throw new CalendarProblem(read.problem);
  return read.calendar;
}

/** Brings in what a calendar says. @throws a CalendarProblem where it is none, or would take most of its sessions out unasked */
export async function bringIn(
  db: Database,
  id: number,
  said: { text: string; etag: string | null; modified: string | null },
  force: boolean,
): Promise<void> {
  const incoming = await understand(db, said.text, await databaseNow(db));
  await transact(db, async (trx) => {
    const followed = await store.followedById(trx, id, true);
    if (!followed) return;
    await applyCalendar(trx, followed, incoming, { nowMs: await databaseNow(trx), force });
    await store.markRead(trx, id, { ...said, body: said.text, warnings: incoming.warnings });
    await emit(trx, 'calendar.followed', { followed: id });
  });
}

/**
 * Reads a calendar that is followed, and has its sessions be as it says. What cannot be read is noted with it, and what it said
 * before stays.
 *
 * @returns why it could not be read; null where it could
 */
export async function readFollowed(
  db: Database,
  followed: store.FollowedRow,
  inside: readonly string[],
  force = false,
): Promise<string | null> {
  const { id, url, laidMs } = followed;
  const nowMs = await databaseNow(db);
  // Unasked, what is the same is laid out anew once a day; asked to, always.
  const isLaid = !force && laidMs !== null && nowMs - laidMs < LAY_EVERY_MS;
  try {
    const answer: Answer = url === null ? { same: true } : await fetchCalendar(url, followed, inside);
    const body = answer.same ? await store.bodyOf(db, id) : answer.text;
    if (answer.same && (isLaid || body === null)) await store.markSame(db, id);
    else await bringIn(db, id, answer.same ? { ...followed, text: body ?? '' } : answer, force);
    return null;
  } catch (error) {
    if (!(error instanceof CalendarProblem)) throw error;
    await transact(db, async (trx) => {
      await store.markTrouble(trx, id, error.message);
      await emit(trx, 'calendar.followed', { followed: id });
    });
    return error.message;
  }
}

/** Reads the calendars that are due; says of how many. What fails by an error of ours is told, and tried again after a while. */
export async function readDue(
  db: Database,
  inside: readonly string[],
  onError: (error: unknown, followed: number) => void,
): Promise<number> {
  for (let read = 0; ; read++) {
    const due = await transact(db, (trx) => store.claimDue(trx));
    if (!due) return read;
    await readFollowed(db, due, inside).catch(async (error: unknown) => {
      onError(error, due.id);
      await store.markTrouble(db, due.id, 'Something went wrong here while it was read.');
    });
  }
}
