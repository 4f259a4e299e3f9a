import { audienceWords } from '../../core/audience/words.ts';
import { readingSeconds } from '../../core/sends/cost.ts';
import { hourMap, type HourMap } from '../../core/told/hours.ts';
import { monthOf, type ToldMonth } from '../../core/told/month.ts';
import { endOfDate } from '../../core/timing/day.ts';
import { decide } from '../../core/rights/decide.ts';
import type { Session } from '../accounts/service.ts';
import { requireDesk } from '../accounts/require.ts';
import { versionById } from '../announcements/versionStore.ts';
import type { Database } from '../database/connection.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { Problem } from '../problem.ts';
import { planOrNone } from '../sends/store.ts';
import { hourRows, toldBetween, toldMost } from './store.ts';

const HOURS_DAYS = 90;
/** The latest so many announcements say at which hour people open what they get. */
const HOURS_OF = 60;
const MOST_IN_MONTH = 1000;
const PEOPLE_SHOWN = 12;

/** At which hour of their own day people opened soon what came to them in the last three months; for the desk. */
export async function hoursThatWork(db: Database, session: Pick<Session, 'actor'>): Promise<HourMap> {
  requireDesk(session.actor);
  return hourMap(await hourRows(db, HOURS_DAYS, HOURS_OF));
}

/** The instants between which a month (YYYY-MM) lies on a zone's clock. */
function boundsOf(month: string, zone: string): { fromMs: number; toMs: number } {
  const [year = 1970, at = 1] = month.split('-').map(Number);
  const dayBefore = (y: number, m: number): string =>
    new Date(Date.UTC(y, m - 1, 0)).toISOString().slice(0, 10);
  return {
    fromMs: endOfDate(dayBefore(year, at), zone) + 1,
    toMs: endOfDate(dayBefore(year, at + 1), zone) + 1,
  };
}

/**
 * What the organisation was told in a month, on the clock of whoever looks; for coordinators.
 *
 * @param month YYYY-MM
 */
export async function toldInMonth(db: Database, session: Session, month: string): Promise<ToldMonth> {
  const decision = decide(session.actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const { fromMs, toMs } = boundsOf(month, session.zone);
  const [found, people, now] = await Promise.all([
    toldBetween(db, fromMs, toMs, MOST_IN_MONTH + 1),
    toldMost(db, fromMs, toMs, PEOPLE_SHOWN),
    audienceContext(db),
  ]);
  const told = found.slice(0, MOST_IN_MONTH);
  const plans = told.map((row) => planOrNone(row.plan).plan);
  const names = await audienceNames(
    db,
    now,
    plans.map((plan) => plan.audience),
  );
  // What recurs has one text for many of its occurrences.
  const seconds = new Map<number, number>();
  for (const id of new Set(told.map((row) => row.versionId))) {
    const version = await versionById(db, id);
    seconds.set(id, version ? readingSeconds(version.title, version.sections) : 0);
  }
  return monthOf(
    month,
    told.map((row, i) => {
      const audience = plans[i]?.audience ?? null;
      return {
        occurrenceId: row.occurrenceId,
        title: row.title,
        atMs: row.atMs,
        sender: row.sender,
        series: row.series,
        importance: row.importance,
        reached: row.reached,
        read: row.read,
        asked: row.asked,
        answered: row.answered,
        whom: audience ? audienceWords(audience, names) : 'Boards only',
        asks: plans[i]?.ask.kind ?? 'nothing',
        byItself: row.byItself === 1,
        seconds: seconds.get(row.versionId) ?? 0,
      };
    }),
    people,
    found.length > MOST_IN_MONTH,
  );
}
