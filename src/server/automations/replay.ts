import { setImmediate } from 'node:timers/promises';
import pMap from 'p-map';
import { automationSchema, isAboutPerson, type Automation } from '../../core/automation/automation.ts';
import { testsIn } from '../../core/automation/condition.ts';
import type { Replay } from '../../core/automation/run.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import { countPeople } from '../audience/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { namesOfPeople, organisation } from '../people/store.ts';
import { Problem } from '../problem.ts';
import { Around } from './around.ts';
import { fieldsFor } from './fields.ts';
import { causesOf, MOST_CAUSES, type PastCause } from './pastCauses.ts';
import { prepare, requireReadable, type Prepared } from './prepare.ts';
import { reallySaid } from './replayStore.ts';
import { requireOwn } from './service.ts';
import { triedAs } from './sharing.ts';

export const replaySchema = automationSchema;
export const REPLAY_WEEKS = 8;
const WEEK_MS = 7 * 86_400_000;
/** So many causes are prepared side by side where nothing, or only people, are read for them. */
const TOGETHER = 100;
/** So many statements are under way at once where each cause asks for what it is about. */
const AT_ONCE = 8;

/** Look-ups are of now and not of then: a replay takes them as found, and leaves conditions on them out. */
function withoutLookup(automation: Automation): { automation: Automation; notes: string[] } {
  if (!automation.lookup) return { automation, notes: [] };
  const asks = (condition: Automation['if']): boolean =>
    testsIn(condition).some((test) => test.field.startsWith('found.'));
  const kept =
    automation.if.kind === 'all'
      ? { kind: 'all' as const, of: automation.if.of.filter((each) => !asks(each)) }
      : automation.if;
  return {
    automation: { ...automation, lookup: null, if: kept },
    notes: [
      'What is looked up is not known for the past: it is taken as found, and conditions on it as met.',
    ],
  };
}

class Tally {
  runs = 0;
  said = 0;
  keptBack = 0;
  readonly days = new Map<string, { runs: number; said: number; people: number }>();
  readonly hours = new Map<number, number>();
  readonly people = new Map<number, number>();
  readonly missing = new Set<string>();
  /** Sayings to audiences, of which not everybody is counted by name. */
  readonly counts = new Map<string, number>();

  async add(db: Database, prepared: Prepared, atMs: number, zone: string): Promise<void> {
    const date = dateAt(atMs, zone);
    const day = this.days.get(date) ?? { runs: 0, said: 0, people: 0 };
    this.days.set(date, day);
    this.runs++;
    day.runs++;
    this.keptBack += prepared.keptBack.length;
    for (const each of [...prepared.keptBack, ...prepared.sayings])
      if (each.missing) this.missing.add(each.missing.value);
    for (const saying of prepared.sayings) {
      this.said++;
      day.said++;
      const hour = Math.floor(atMs / 3_600_000) * 3_600_000;
      this.hours.set(hour, (this.hours.get(hour) ?? 0) + 1);
      if (saying.personId !== null) {
        day.people++;
        this.people.set(saying.personId, (this.people.get(saying.personId) ?? 0) + 1);
      } else if (saying.audience) day.people += await this.#count(db, saying.audience);
    }
  }

  async #count(
    db: Database,
    audience: NonNullable<Prepared['sayings'][number]['audience']>,
  ): Promise<number> {
    const key = JSON.stringify(audience);
    let found = this.counts.get(key);
    if (found === undefined) {
      found = await countPeople(db, audience, await audienceContext(db));
      this.counts.set(key, found);
    }
    return found;
  }
}

/** Prepares causes and counts what each would have said, in their order; others are served in between. */
async function goThrough(
  db: Database,
  owner: Actor,
  automation: Automation,
  causes: readonly PastCause[],
  zone: string,
): Promise<Tally> {
  const tally = new Tally();
  const nobody = { secret: '', inside: [] };
  const around = new Around(db);
  // A whole sheet at once is much in memory; of a record, or a person, there is little.
  const together = automation.when.kind === 'schedule' ? 1 : TOGETHER;
  for (let at = 0; at < causes.length; at += together) {
    const some = causes.slice(at, at + together);
    const light = some.every(({ cause, rows }) => rows !== null || cause.kind === 'person');
    const prepared = await pMap(
      some,
      ({ cause, atMs, rows }) => prepare(db, owner, automation, cause, atMs, nobody, around, rows && rows()),
      { concurrency: light ? TOGETHER : AT_ONCE },
    );
    for (const [i, each] of prepared.entries()) await tally.add(db, each, some[i]?.atMs ?? 0, zone);
    await setImmediate();
  }
  return tally;
}

/**
 * Runs an automation as it is written over the past weeks, without saying anything: how much it would have said, to how many,
 * on which days, whom it would have troubled most, and what it would have failed to find; beside it what it really said.
 */
export async function replay(db: Database, actor: Actor, id: number, written: Automation): Promise<Replay> {
  const row = await requireOwn(db, actor, id);
  const owner = await triedAs(db, actor, row);
  if (!owner) throw new Problem(409, `${row.owner}, who looked after it, has left. Take it over first.`);
  await requireReadable(new Around(db), owner, written);
  const toMs = await databaseNow(db);
  const fromMs = toMs - REPLAY_WEEKS * WEEK_MS;
  const zone = (await organisation(db))?.zone ?? 'UTC';
  const { automation, notes } = withoutLookup(written);
  const { fields } = await fieldsFor(db, automation);
  const found = await causesOf(db, automation, fields, owner.id, { fromMs, toMs, zone });
  notes.push(...found.notes);
  if (found.causes.length > MOST_CAUSES)
    notes.push(
      `It would have been set off ${found.causes.length.toLocaleString('en-GB')} times; the last ${MOST_CAUSES.toLocaleString('en-GB')} are gone through.`,
    );
  if (isAboutPerson(automation.when)) notes.push('People who left since are not told of.');
  const tally = await goThrough(db, owner, automation, found.causes.slice(-MOST_CAUSES), zone);
  const most = [...tally.people].sort((a, b) => b[1] - a[1]).slice(0, 5);
  const names = await namesOfPeople(
    db,
    most.map(([person]) => person),
  );
  const [busiest] = [...tally.hours].sort((a, b) => b[1] - a[1]);
  return {
    fromMs,
    toMs,
    runs: found.causes.length,
    said: tally.said,
    keptBack: tally.keptBack,
    people: tally.people.size + Math.max(0, ...tally.counts.values()),
    days: [...tally.days].map(([date, day]) => ({ date, ...day })).sort((a, b) => (a.date < b.date ? -1 : 1)),
    busiest: busiest ? { atMs: busiest[0], said: busiest[1] } : null,
    most: most.map(([person, times]) => ({ name: names.get(person) ?? '', times })),
    missing: [...tally.missing].slice(0, 20),
    reallySaid: await reallySaid(db, id, fromMs, toMs),
    notes,
  };
}
