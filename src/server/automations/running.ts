import type { Automation } from '../../core/automation/automation.ts';
import { reasonOf } from '../aside/store.ts';
import pMap from 'p-map';
import { transact, type Database } from '../database/connection.ts';
import { emit, emitAll } from '../events/store.ts';
import type { Asking } from '../sources/asking.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import { Around } from './around.ts';
import { notifyPaused } from './notifying.ts';
import { prepare, type Prepared } from './prepare.ts';
import {
  claimRuns,
  endRuns,
  insertSayings,
  itemsSaid,
  returnRun,
  saidLastHour,
  type ClaimedRun,
  type Ended,
} from './runStore.ts';
import { speakAll } from './speaking.ts';
import {
  automationById,
  countFailure,
  lockAutomationState,
  setAutomationState,
  type AutomationRow,
} from './store.ts';

/** How long a claim on a run holds, in seconds: longer than its look-ups may take. */
const LEASE_S = 120;
/** So many are claimed in a turn, and so many of them prepared side by side. */
const CLAIMED = 100;
const AT_ONCE = 8;
const MOST_ATTEMPTS = 5;
/** So many runs in a row that failed, and it pauses. */
const MOST_FAILURES = 3;

/** A run that was claimed by somebody else meanwhile: what was done of it is undone. */
class LostClaim extends Error {}

/** Told of an error of a run, for the log. */
export type RunFailed = (error: unknown, run: number) => void;

/**
 * The automations' turn: claims what is due and does it. What it is prepared against is read once for the turn, and what one
 * automation says in it is written together.
 *
 * @param nowMs the engine's best knowledge of the database's clock
 * @returns how many runs were taken
 */
export async function runAutomations(
  db: Database,
  engine: string,
  asking: Asking,
  nowMs: () => number,
  failed: RunFailed,
): Promise<number> {
  const claimed = await claimRuns(db, engine, LEASE_S, CLAIMED);
  const turn: Turn = { db, engine, asking, around: new Around(db), nowMs, failed };
  const ready = await pMap(claimed, (run) => guarded(turn, run, () => prepareRun(turn, run)), {
    concurrency: AT_ONCE,
  });
  const byAutomation = new Map<number, Ready[]>();
  for (const each of ready)
    if (each)
      byAutomation.set(each.run.automationId, [...(byAutomation.get(each.run.automationId) ?? []), each]);
  await pMap(byAutomation.values(), (of) => sayTogether(turn, of), { concurrency: AT_ONCE });
  return claimed.length;
}

interface Turn {
  db: Database;
  engine: string;
  asking: Asking;
  around: Around;
  nowMs: () => number;
  failed: RunFailed;
}

/** A run that is prepared and has to be said. */
interface Ready {
  run: ClaimedRun;
  automation: AutomationRow;
  live: Automation;
  prepared: Prepared;
}

/** Does something of a run; where it fails, the run is tried again later, or fails for good. */
async function guarded<T>(turn: Turn, run: ClaimedRun, work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof LostClaim) return undefined;
    turn.failed(error, run.id);
    await notDone(turn.db, turn.engine, run, reasonOf(error));
    return undefined;
  }
}

/** Says what was prepared of one automation in one transaction; where that fails, each run in one of its own. */
async function sayTogether(turn: Turn, ready: readonly Ready[]): Promise<void> {
  try {
    await say(turn, ready);
  } catch (error) {
    if (ready.length === 1 && !(error instanceof LostClaim)) {
      for (const { run } of ready) await guarded(turn, run, () => Promise.reject(error as Error));
      return;
    }
    if (ready.length > 1) for (const each of ready) await guarded(turn, each.run, () => say(turn, [each]));
  }
}

async function notDone(db: Database, engine: string, run: ClaimedRun, reason: string): Promise<void> {
  if (run.attempts < MOST_ATTEMPTS) await returnRun(db, run.id, engine, 2 ** run.attempts, reason);
  else await end(db, engine, run, { state: 'failed', matched: 0, said: 0, keptBack: 0, reason });
}

/** Why a run is not carried out at all, with what becomes of it; null where it is. */
function refused(
  automation: AutomationRow | undefined,
  live: Automation | undefined,
  run: ClaimedRun,
  today: string,
  nowMs: number,
): Pick<Ended, 'state' | 'reason'> | null {
  if (!automation || automation.state !== 'on' || !live)
    return { state: 'nothing', reason: 'It was switched off by then.' };
  if ((live.from !== null && today < live.from) || (live.until !== null && today > live.until))
    return { state: 'nothing', reason: 'It is not the time it runs in.' };
  const lateMs = nowMs - run.dueMs;
  if (live.lapseMinutes !== null && lateMs > live.lapseMinutes * 60_000)
    return {
      state: 'lapsed',
      reason: `It could only be said ${Math.round(lateMs / 60_000)} minutes late, and lapses after ${live.lapseMinutes}.`,
    };
  return null;
}

/** Prepares a run; undefined where it is not carried out, and ended. */
async function prepareRun(turn: Turn, run: ClaimedRun): Promise<Ready | undefined> {
  const { db, engine, around, asking } = turn;
  // The engine's clock is the mean of two, and may fall between two milliseconds.
  const nowMs = Math.round(turn.nowMs());
  const [automation, live, { zone }] = await Promise.all([
    around.automation(run.automationId),
    around.version(run.versionId),
    around.organisation(),
  ]);
  const not = refused(automation, live, run, dateAt(Math.max(nowMs, run.dueMs), zone), nowMs);
  if (not || !automation || !live) {
    const none = { matched: 0, said: 0, keptBack: 0 };
    await end(db, engine, run, { ...none, ...(not ?? { state: 'nothing', reason: null }) });
    return undefined;
  }
  const owner = await around.actor(automation.ownerId);
  if (!owner) {
    await transact(db, (trx) =>
      pause(trx, engine, run, automation, `${automation.owner}, who looked after it, has left.`),
    );
    return undefined;
  }
  // What a clock sets off is due at that time; what somebody sets off, now.
  const dueMs = run.cause.kind === 'time' || run.cause.kind === 'date' ? run.dueMs : nowMs;
  return {
    run,
    automation,
    live,
    prepared: await prepare(db, owner, live, run.cause, dueMs, asking, around),
  };
}

/**
 * Says what was prepared of one automation and ends its runs, in one transaction: however often it is begun, it is done once.
 * The automation is held meanwhile, so that its ceiling and its being switched off count for all engines.
 */
async function say({ db, engine }: Turn, ready: readonly Ready[]): Promise<void> {
  const [first] = ready;
  if (!first) return;
  const { automation } = first;
  await transact(db, async (trx) => {
    const on = (await lockAutomationState(trx, automation.id)) === 'on';
    const said = await itemsSaid(
      trx,
      ready.map(({ run }) => run.id),
    );
    const before = (run: ClaimedRun): ReadonlySet<string> => said.get(run.id) ?? new Set();
    let lately = await saidLastHour(trx, automation.id);
    const within: Ready[] = [];
    let over: { each: Ready; why: string } | undefined;
    for (const each of on ? ready : []) {
      const { run, live, prepared } = each;
      const fresh = prepared.sayings.filter(({ item }) => !before(run).has(item)).length;
      if (fresh > 0 && lately + fresh > live.ceiling) {
        const why = `It would have said ${fresh} ${fresh === 1 ? 'thing' : 'things'} at once and ${lately} in the hour before; its ceiling is ${live.ceiling} an hour. Nothing of it was said.`;
        over = { each, why };
        break;
      }
      lately += fresh;
      within.push(each);
    }
    await sayAll(trx, engine, automation, within, before);
    if (over) await pause(trx, engine, over.each.run, automation, over.why);
    const reason = 'It was switched off, or paused, by then.';
    await finish(
      trx,
      engine,
      ready
        .filter((each) => !within.includes(each) && each !== over?.each)
        .map(({ run }) => ({ run, ended: { state: 'held', matched: 0, said: 0, keptBack: 1, reason } })),
    );
    if (on && !over) await countFailure(trx, automation.id, false);
  });
}

/** Says what was prepared of some runs of one automation and ends them. */
async function sayAll(
  trx: Database,
  engine: string,
  automation: AutomationRow,
  ready: readonly Ready[],
  before: (run: ClaimedRun) => ReadonlySet<string>,
): Promise<void> {
  const fresh = ready.flatMap(({ run, prepared }) =>
    prepared.sayings.filter(({ item }) => !before(run).has(item)).map((saying) => ({ run, saying })),
  );
  const occurrences = await speakAll(
    trx,
    automation.ownerId,
    fresh.map(({ run, saying }) => ({ by: { runId: run.id }, saying })),
  );
  const lines = fresh.map(({ run, saying }, at) => {
    const { item, about, otherwise, reason, missing } = saying;
    const occurrenceId = occurrences[at] ?? null;
    return {
      runId: run.id,
      item,
      about,
      occurrenceId,
      otherwise,
      reason: occurrenceId === null ? 'The hour had passed everywhere.' : reason,
      missing,
    };
  });
  await insertSayings(
    trx,
    ready.map(({ run }) => run.id),
    [
      ...lines,
      ...ready.flatMap(({ run, prepared }) =>
        prepared.keptBack
          .filter(({ item }) => !before(run).has(item))
          .map((kept) => ({ ...kept, runId: run.id, occurrenceId: null, otherwise: false })),
      ),
    ],
  );
  const saidNow = new Map<number, number>();
  for (const { runId, occurrenceId } of lines)
    if (occurrenceId !== null) saidNow.set(runId, (saidNow.get(runId) ?? 0) + 1);
  await finish(
    trx,
    engine,
    ready.map(({ run, prepared: { matched, keptBack } }) => {
      const said = before(run).size + (saidNow.get(run.id) ?? 0);
      return {
        run,
        ended: {
          state: said > 0 ? 'said' : keptBack.length > 0 ? 'held' : 'nothing',
          matched,
          said,
          keptBack: keptBack.length,
          reason: said === 0 ? (keptBack[0]?.reason ?? 'Nothing met its conditions.') : null,
        },
      };
    }),
  );
}

/** @throws LostClaim where another engine has taken up one of them meanwhile */
async function finish(
  trx: Database,
  engine: string,
  done: readonly { run: ClaimedRun; ended: Ended }[],
): Promise<void> {
  const alike = new Map<string, { ids: number[]; ended: Ended }>();
  for (const { run, ended } of done) {
    const key = JSON.stringify(ended);
    const known = alike.get(key);
    if (known) known.ids.push(run.id);
    else alike.set(key, { ids: [run.id], ended });
  }
  for (const { ids, ended } of alike.values())
    if ((await endRuns(trx, ids, engine, ended)) < ids.length) throw new LostClaim();
  await emitAll(
    trx,
    'automation.ran',
    done.map(({ run }) => ({ automation: run.automationId, run: run.id })),
  );
}

async function end(db: Database, engine: string, run: ClaimedRun, ended: Ended): Promise<void> {
  await transact(db, async (trx) => {
    await finish(trx, engine, [{ run, ended }]);
    const failures = await countFailure(trx, run.automationId, ended.state === 'failed');
    if (failures < MOST_FAILURES) return;
    const automation = await automationById(trx, run.automationId);
    const why = `It failed ${failures} times in a row: ${ended.reason ?? ''}`;
    if (automation && (await setAutomationState(trx, automation.id, 'paused', why))) {
      await notifyPaused(trx, automation, why);
      await emit(trx, 'automation.changed', { automation: automation.id });
    }
  });
}

/** Keeps a run back and pauses its automation, and tells whoever looks after it. */
async function pause(
  trx: Database,
  engine: string,
  run: ClaimedRun,
  automation: AutomationRow,
  why: string,
): Promise<void> {
  await finish(trx, engine, [
    { run, ended: { state: 'held', matched: 0, said: 0, keptBack: 1, reason: why } },
  ]);
  if (!(await setAutomationState(trx, automation.id, 'paused', why))) return;
  await notifyPaused(trx, automation, why);
  await emit(trx, 'automation.changed', { automation: automation.id });
}
