import type { Automation } from '../../core/automation/automation.ts';
import type { Cause } from '../../core/automation/cause.ts';
import { RUN_STATES, type RunLine, type RunPage, type RunState } from '../../core/automation/run.ts';
import type { AutomationNames } from '../../core/automation/words.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { momentWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { requireDesk } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { namesOfPeople } from '../people/store.ts';
import { occurrencesByIds } from '../sends/occurrenceStore.ts';
import { notFound, Problem } from '../problem.ts';
import { readingNames } from './naming.ts';
import { insertRun, runAgain, runById, runsPage, sayingsOf, type RunRow } from './runStore.ts';
import { isTheirs } from './sharing.ts';
import { automationsNaming } from './sharingStore.ts';
import { automationById } from './store.ts';

const PAGE = 50;

/** The names of what set runs off: people, and what was asked, by id. */
interface CauseNames {
  people: ReadonlyMap<number, string>;
  asks: ReadonlyMap<number, string>;
}

/** What set a run off, in words. */
function causeWords(cause: Cause, names: AutomationNames, { people, asks }: CauseNames): string {
  switch (cause.kind) {
    case 'person': {
      const [first] = cause.people;
      const who = (first === undefined ? undefined : people.get(first)) ?? 'somebody';
      return `${who}, ${names.group(cause.groupId) ?? 'a group that no longer exists'}`;
    }
    case 'time':
      return cause.wall === '' ? 'run by hand' : momentWords(Date.parse(`${cause.wall}:00Z`), 'UTC');
    case 'call':
      return `a message by ${names.hook(cause.hookId) ?? 'a way in that no longer exists'}`;
    case 'ask':
      return asks.get(cause.occurrenceId) ?? 'something that was asked';
    case 'date':
      return `what was due ${momentWords(cause.dueMs, 'UTC')}`;
    case 'records':
      return `${count(cause.ids.length, 'record', 'records')} in ${names.sheet(cause.sheetId) ?? 'a sheet that no longer exists'}`;
  }
}

export const runLine = (
  run: RunRow,
  names: AutomationNames,
  of: CauseNames = { people: new Map(), asks: new Map() },
): RunLine => {
  const { cause, ...rest } = run;
  return {
    ...rest,
    cause: causeWords(cause, names, of),
    again: run.state === 'failed' || run.state === 'held' || run.state === 'lapsed',
  };
};

/** A page of runs, the latest first, as far as this person may see their automations. */
export async function listRuns(
  db: Database,
  actor: Actor,
  wanted: { automationId: number | null; states: readonly RunState[]; before: number | null; find?: string },
): Promise<{ runs: RunLine[]; next: number | null }> {
  requireDesk(actor);
  if (wanted.automationId !== null) await requireSeen(db, actor, wanted.automationId);
  else if (actor.role !== 'coordinator')
    throw new Problem(403, 'Only coordinators see the runs of all automations.');
  const states = wanted.states.length === 0 ? RUN_STATES : wanted.states;
  const found = await runsPage(db, { ...wanted, states, find: wanted.find?.trim() ?? '' }, PAGE + 1);
  const page = found.slice(0, PAGE);
  const [names, of] = await Promise.all([readingNames(db, actor, []), causeNames(db, page)]);
  return {
    runs: page.map((run) => runLine(run, names, of)),
    next: found.length > PAGE ? (page.at(-1)?.id ?? null) : null,
  };
}

async function causeNames(db: Database, runs: readonly RunRow[]): Promise<CauseNames> {
  const causes = runs.map(({ cause }) => cause);
  const [people, asks] = await Promise.all([
    namesOfPeople(
      db,
      causes.flatMap((cause) => (cause.kind === 'person' ? cause.people.slice(0, 1) : [])),
    ),
    occurrencesByIds(
      db,
      causes.flatMap((cause) => (cause.kind === 'ask' ? [cause.occurrenceId] : [])),
    ),
  ]);
  return { people, asks: new Map([...asks].map(([id, { title }]) => [id, title])) };
}

async function requireSeen(
  db: Database,
  actor: Actor,
  automationId: number,
  what = 'automation',
): Promise<void> {
  const automation = await automationById(db, automationId);
  if (
    !automation ||
    !(isTheirs(actor, automation) || (await automationsNaming(db, actor.id)).has(automationId))
  )
    throw notFound(what);
}

/** One run with all it said and kept back. */
export async function openRun(db: Database, actor: Actor, id: number): Promise<RunPage> {
  requireDesk(actor);
  const run = await runById(db, id);
  if (!run) throw notFound('run');
  await requireSeen(db, actor, run.automationId, 'run');
  const [names, of, sayings] = await Promise.all([
    readingNames(db, actor, []),
    causeNames(db, [run]),
    sayingsOf(db, id),
  ]);
  return { ...runLine(run, names, of), sayings };
}

/** Has a run tried anew that failed, was kept back or came too late. What it said is not said again. */
export async function tryRunAgain(db: Database, actor: Actor, id: number): Promise<void> {
  const run = await openRun(db, actor, id);
  await transact(db, async (trx) => {
    if (!(await runAgain(trx, id))) throw new Problem(409, 'This run is not one that can be tried again.');
    await record(trx, {
      actorId: actor.id,
      action: 'try again',
      subject: 'automation',
      subjectId: run.automationId,
      detail: { run: id },
    });
    await emit(trx, 'automation.ran', { automation: run.automationId, run: id });
  });
}

/**
 * An automation that can be run by hand: at work, and set off by a clock.
 *
 * @throws 404; 409 where it is not at work, or runs when something happens
 */
export async function requireRunnable(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ live: Automation; versionId: number; ownerId: number; owner: string }> {
  await requireSeen(db, actor, id);
  const automation = await automationById(db, id);
  if (!automation?.live || automation.liveVersionId === null || automation.state !== 'on')
    throw new Problem(409, 'It is not on. Publish it, or switch it on.');
  if (automation.live.when.kind !== 'schedule')
    throw new Problem(409, 'It runs when something happens, and not by itself. Try it instead.');
  const { live, liveVersionId: versionId, ownerId, owner } = automation;
  return { live, versionId, ownerId, owner };
}

/** Runs an automation now that a clock sets off: once a press, however often the press is sent. */
export async function runNow(db: Database, actor: Actor, id: number, key: string): Promise<void> {
  const { versionId } = await requireRunnable(db, actor, id);
  await transact(db, async (trx) => {
    await insertRun(trx, {
      automationId: id,
      versionId,
      causeKey: `now.${key}`.slice(0, 80),
      cause: { kind: 'time', wall: '' },
      dueMs: await databaseNow(trx),
    });
    await record(trx, { actorId: actor.id, action: 'run now', subject: 'automation', subjectId: id });
  });
}
