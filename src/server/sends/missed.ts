import { groupsNamedIn, type Audience } from '../../core/audience/expression.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { PlannedBucket } from '../../core/plan/buckets.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { Missed } from '../../core/sends/forecast.ts';
import { zoneWords } from '../../core/timing/words.ts';
import { list, people as peopleWords } from '../../core/words.ts';
import type { Sql } from '../audience/sql.ts';
import { countWhere, leftFrom, type Reach } from '../audience/store.ts';
import type { Database } from '../database/connection.ts';
import type { NamesWhere } from './textProblems.ts';

/** How many are named of those who are missed for one reason. */
export const SAMPLE = 50;

/** What is known of an audience, its plan and its buckets, from which follows who is missed. */
export interface Missing {
  plan: Plan;
  audience: Audience;
  now: AudienceContext;
  reach: Reach;
  buckets: readonly PlannedBucket[];
  /** Whether mail of this kind can be stopped. */
  stoppable: boolean;
  contacts: { all: number; byMail: number };
  /** How many get no mail because it comes back. */
  failing: number;
  /** Where it goes on working days alone: a condition over `people p` that holds for those at work. */
  works: Sql | null;
  namesOf: NamesWhere;
}

const zonesLeftOut = (buckets: readonly PlannedBucket[]): string[] =>
  buckets.filter((bucket) => bucket.pastHour === 'not').map((bucket) => bucket.zone);

/** A condition over `people p` for those who get it: not in a zone that is left out, and at work where it goes on working days alone; null where all do. */
export function gettingIt(buckets: readonly PlannedBucket[], works: Sql | null): Sql | null {
  const skipped = zonesLeftOut(buckets);
  if (!works && skipped.length === 0) return null;
  return {
    sql: [
      skipped.length > 0 ? `p.zone NOT IN (${skipped.map(() => '?').join(', ')})` : 'TRUE',
      works?.sql ?? 'TRUE',
    ].join(' AND '),
    bindings: [...skipped, ...(works?.bindings ?? [])],
  };
}

/** Those whom mail does not reach as the plan says. */
async function withoutMail({ plan, reach, stoppable, failing, namesOf }: Missing): Promise<Missed[]> {
  if (!plan.mail) return [];
  const missed: Missed[] = [];
  if (reach.withoutMail > 0)
    missed.push({
      kind: 'no mail address',
      n: reach.withoutMail,
      detail: `${peopleWords(reach.withoutMail)} without a mail address: the inbox only.`,
      remedy: 'Add their addresses under People, or tell them in another way.',
      names: await namesOf('no mail'),
    });
  if (stoppable && reach.mailStopped > 0)
    missed.push({
      kind: 'mail stopped',
      n: reach.mailStopped,
      detail: `${peopleWords(reach.mailStopped)} stopped mail of this kind: the inbox only.`,
      remedy: 'If they must have it by mail, ask for an acknowledgement or make it urgent.',
      names: await namesOf('mail stopped'),
    });
  if (failing > 0)
    missed.push({
      kind: 'mail comes back',
      n: failing,
      detail: `${peopleWords(failing)} whose mail comes back: the inbox only.`,
      remedy: 'Ask them for another address, or let mail go there again from their page.',
      names: await namesOf('mail comes back'),
    });
  return missed;
}

/** Those whom nothing reaches for when it goes. */
async function byTime(db: Database, { audience, now, reach, buckets, works }: Missing): Promise<Missed[]> {
  const missed: Missed[] = [];
  const skipped = zonesLeftOut(buckets);
  const passed = reach.clocks
    .filter((clock) => skipped.includes(clock.zone))
    .reduce((sum, each) => sum + each.n, 0);
  if (passed > 0)
    missed.push({
      kind: 'hour passed',
      n: passed,
      detail: `${peopleWords(passed)} for whom the hour has passed (${list(skipped.map(zoneWords), 'and')}): nothing.`,
      remedy: 'Choose that they get it at once or the next day, or choose a later time.',
      names: [],
    });
  const idle = works
    ? await countWhere(db, audience, now, { sql: `NOT ${works.sql}`, bindings: works.bindings }, SAMPLE)
    : { n: 0, names: [] };
  if (idle.n > 0)
    missed.push({
      kind: 'not working',
      n: idle.n,
      detail: `${peopleWords(idle.n)} whose working day it is not (away, on leave, a holiday, or a day off): nothing.`,
      remedy: 'They are asked again on their next working day.',
      names: idle.names,
    });
  return missed;
}

/** Those who would not be reached as the plan says, with what can be done. */
export async function missedOf(db: Database, from: Missing): Promise<Missed[]> {
  const { audience, now, contacts } = from;
  const fixed = groupsNamedIn(audience).filter((id) => now.groups.get(id)?.kind === 'fixed');
  const [mail, time, left] = await Promise.all([
    withoutMail(from),
    byTime(db, from),
    leftFrom(db, fixed, SAMPLE),
  ]);
  const missed = [...mail, ...time];
  if (left.length > 0)
    missed.push({
      kind: 'left',
      n: left.length,
      detail: `${peopleWords(left.length)} still listed in a fixed group but no longer here: nothing.`,
      remedy: 'Take them out of the group, or put somebody in their place.',
      names: left.map((person) => person.name),
    });
  const without = contacts.all - contacts.byMail;
  if (without > 0)
    missed.push({
      kind: 'contact without mail',
      n: without,
      detail: `${peopleWords(without)} linked to somebody and without a usable mail address: no copy.`,
      remedy: 'Add the addresses of the linked contacts under People.',
      names: [],
    });
  return missed;
}
