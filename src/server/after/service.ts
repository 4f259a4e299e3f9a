import type { After, CurvePoint } from '../../core/sends/after.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { openSecretPolls } from '../asks/askStore.ts';
import { requireNamesTold } from '../asks/secrecy.ts';
import { versionById } from '../announcements/versionStore.ts';
import { contactsWhoRead } from '../contact-reading/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { csvStream } from '../http/csvStream.ts';
import { reactionsOfOccurrence } from '../reactions/store.ts';
import { repliesToOccurrence } from '../replies/store.ts';
import { issueBefore } from '../series/store.ts';
import { signUpsBySharer } from '../sign-ups/store.ts';
import { arrivals, deliveriesPage, figuresOf } from './store.ts';
import { readersOfBoards } from '../boards/readers.ts';
import { openOccurrence } from '../sends/service.ts';
import { forgottenOf } from '../retention/keptStore.ts';

const POINTS = 48;
const LONGEST_MIN = 7 * 1440;

/** What became of a send that has begun: its curve over time, its figures beside the issue before, its sign-ups. */
export async function after(db: Database, actor: Actor, occurrenceId: number): Promise<After> {
  const occurrence = await openOccurrence(db, actor, occurrenceId);
  const nowMs = await databaseNow(db);
  const age = Math.max(0, nowMs - occurrence.dueMs);
  const beforeId =
    occurrence.seriesId === null ? undefined : await issueBefore(db, occurrence.seriesId, occurrence.dueMs);
  const spanMin = Math.max(1, Math.min(LONGEST_MIN, Math.ceil(age / 60_000)));
  const step = Math.max(1, Math.ceil(spanMin / POINTS));
  const [figures, before, counted, signUps, reactions, replies, version, onBoards, contactsOnBoards] =
    await Promise.all([
      figuresOf(db, occurrenceId, null),
      beforeId === undefined ? null : figuresOf(db, beforeId, age),
      arrivals(db, occurrenceId, occurrence.dueMs, step),
      signUpsBySharer(db, occurrenceId),
      reactionsOfOccurrence(db, occurrenceId),
      repliesToOccurrence(db, occurrenceId),
      versionById(db, occurrence.versionId),
      readersOfBoards(db, occurrence.plan.boards),
      contactsWhoRead(db, occurrenceId),
    ]);
  // While a poll without names is open, when each vote came is told to nobody.
  const secret = (await openSecretPolls(db, [occurrenceId])).length > 0;
  if (!figures) throw new Error(`Occurrence ${occurrenceId} has no figures`);
  const curve: CurvePoint[] = [{ minutes: 0, delivered: 0, read: 0, answered: 0 }];
  let last: CurvePoint = { minutes: 0, delivered: 0, read: 0, answered: 0 };
  for (let bin = 0; bin * step < spanMin; bin++) {
    last = {
      minutes: (bin + 1) * step,
      delivered: last.delivered + (counted.delivered.get(bin) ?? 0),
      read: last.read + (counted.read.get(bin) ?? 0),
      answered: last.answered + (secret ? 0 : (counted.answered.get(bin) ?? 0)),
    };
    curve.push(last);
  }
  return {
    figures: { ...figures, onBoards, contactsOnBoards },
    // How many could read the one before on its boards then is not known any more.
    before: before ? { ...before, onBoards: 0, contactsOnBoards: 0 } : null,
    curve,
    forgotten: await forgottenOf(db, occurrenceId),
    takesSignUps: version?.event?.signUp === true,
    signUps,
    reactions,
    replies,
  };
}

const COLUMNS = [
  'Name',
  'Station',
  'Method',
  'State',
  'Due (UTC)',
  'Went (UTC)',
  'Late (ms)',
  'Read (UTC)',
  'Attempts',
  'Reason',
];

/** Every delivery of a send, as a CSV. */
export async function deliveriesCsv(
  db: Database,
  actor: Actor,
  occurrenceId: number,
): Promise<ReadableStream<Uint8Array>> {
  await requireNamesTold(db, await openOccurrence(db, actor, occurrenceId));
  const iso = (ms: number | null): string => (ms === null ? '' : new Date(ms).toISOString());
  async function* lines(): AsyncGenerator<(string | number)[][]> {
    let from: { personId: number; method: string } | null = null;
    do {
      const page: Awaited<ReturnType<typeof deliveriesPage>> = await deliveriesPage(
        db,
        occurrenceId,
        from,
        5000,
      );
      yield page.map((row) => [
        row.name,
        row.station ?? '',
        row.method,
        row.state,
        iso(row.dueMs),
        iso(row.wentMs),
        row.lateMs ?? '',
        iso(row.readMs),
        row.attempts,
        row.reason ?? '',
      ]);
      const last = page.at(-1);
      from = page.length === 5000 && last ? { personId: last.personId, method: last.method } : null;
    } while (from);
  }
  return csvStream(COLUMNS, lines());
}
