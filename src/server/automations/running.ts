import type { Automation } from '../../core/automation/automation.ts';
import { reasonOf } from '../aside/store.ts';
import { actorOf } from '../accounts/actor.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import type { Asking } from '../sources/asking.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import { organisation } from '../people/store.ts';
import { tellPaused } from './notifying.ts';
import { prepare, type Prepared } from './prepare.ts';
import {
  claimRuns,
  endRun,
  insertSayings,
  itemsSaid,
  returnRun,
  saidLastHour,
  type ClaimedRun,
  type Ended,
} from './runStore.ts';
import { speak } from './speaking.ts';
import {
  automationById,
  countFailure,
  setAutomationState,
  versionById,
  type AutomationRow,
} from './store.ts';

/** How long a claim on a run holds, in seconds: longer than its look-ups may take. */
const LEASE_S = 120;
const AT_ONCE = 8;
const MOST_ATTEMPTS = 5;
/** So many runs in a row that failed, and it pauses. */
const MOST_FAILURES = 3;

/** A run that was claimed by somebody else meanwhile: what was done of it is undone. */
class LostClaim extends Error {}

/** Told of an error of a run, for the log. */
export type RunFailed = (error: unknown, run: number) => void;

/**
 * The automations' turn: claims what is due and does it.
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
  const claimed = await claimRuns(db, engine, LEASE_S, AT_ONCE);
  await Promise.all(
    claimed.map(async (run) => {
      try {
        // The engine's clock is the mean of two, and may fall between two milliseconds.
        await runOne(db, engine, run, asking, Math.round(nowMs()));
      } catch (error) {
        if (error instanceof LostClaim) return;
        failed(error, run.id);
        await notDone(db, engine, run, reasonOf(error));
      }
    }),
  );
  return claimed.length;
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

async function runOne(
  db: Database,
  engine: string,
  run: ClaimedRun,
  asking: Asking,
  nowMs: number,
): Promise<void> {
  const [automation, live, home] = await Promise.all([
    automationById(db, run.automationId),
    versionById(db, run.versionId),
    organisation(db),
  ]);
  const none = { matched: 0, said: 0, keptBack: 0 };
  const not = refused(automation, live, run, dateAt(Math.max(nowMs, run.dueMs), home?.zone ?? 'UTC'), nowMs);
  if (not || !automation || !live) {
    await end(db, engine, run, { ...none, ...(not ?? { state: 'nothing', reason: null }) });
    return;
  }
  const owner = await actorOf(db, automation.ownerId);
  if (!owner) {
    await pause(db, engine, run, automation, `${automation.owner}, who looked after it, has left.`);
    return;
  }
  // What a clock sets off is due at that time; what somebody sets off, now.
  const prepared = await prepare(
    db,
    owner,
    live,
    run.cause,
    run.cause.kind === 'time' ? run.dueMs : nowMs,
    asking,
  );
  await say(db, engine, run, automation, live, prepared);
}

/** Says what was prepared and ends the run, in one transaction: however often it is begun, it is done once. */
async function say(
  db: Database,
  engine: string,
  run: ClaimedRun,
  automation: AutomationRow,
  live: Automation,
  prepared: Prepared,
): Promise<void> {
  const { sayings, keptBack, matched } = prepared;
  const before = await itemsSaid(db, run.id);
  const fresh = sayings.filter((saying) => !before.has(saying.item));
  const lately = await saidLastHour(db, automation.id);
  if (fresh.length > 0 && lately + fresh.length > live.ceiling) {
    await pause(
      db,
      engine,
      run,
      automation,
      `It would have said ${fresh.length} ${fresh.length === 1 ? 'thing' : 'things'} at once and ${lately} in the hour before; its ceiling is ${live.ceiling} an hour. Nothing of it was said.`,
    );
    return;
  }
  await transact(db, async (trx) => {
    const lines = [];
    for (const saying of fresh) {
      const occurrenceId = await speak(trx, automation.ownerId, run.id, saying);
      const { item, about, otherwise, reason, missing } = saying;
      lines.push({
        item,
        about,
        occurrenceId,
        otherwise,
        reason: occurrenceId === null ? 'The hour had passed everywhere.' : reason,
        missing,
      });
    }
    await insertSayings(trx, run.id, [
      ...lines,
      ...keptBack
        .filter(({ item }) => !before.has(item))
        .map((kept) => ({ ...kept, occurrenceId: null, otherwise: false })),
    ]);
    const said = before.size + lines.filter((line) => line.occurrenceId !== null).length;
    await finish(trx, engine, run, {
      state: said > 0 ? 'said' : keptBack.length > 0 ? 'held' : 'nothing',
      matched,
      said,
      keptBack: keptBack.length,
      reason: said === 0 ? (keptBack[0]?.reason ?? 'Nothing met its conditions.') : null,
    });
    await countFailure(trx, automation.id, false);
  });
}

async function finish(trx: Database, engine: string, run: ClaimedRun, ended: Ended): Promise<void> {
  if (!(await endRun(trx, run.id, engine, ended))) throw new LostClaim();
  await emit(trx, 'automation.ran', { automation: run.automationId, run: run.id });
}

async function end(db: Database, engine: string, run: ClaimedRun, ended: Ended): Promise<void> {
  await transact(db, async (trx) => {
    await finish(trx, engine, run, ended);
    const failures = await countFailure(trx, run.automationId, ended.state === 'failed');
    if (failures < MOST_FAILURES) return;
    const automation = await automationById(trx, run.automationId);
    const why = `It failed ${failures} times in a row: ${ended.reason ?? ''}`;
    if (automation && (await setAutomationState(trx, automation.id, 'paused', why))) {
      await tellPaused(trx, automation, why);
      await emit(trx, 'automation.changed', { automation: automation.id });
    }
  });
}

/** Keeps a run back and pauses its automation, and tells whoever looks after it. */
async function pause(
  db: Database,
  engine: string,
  run: ClaimedRun,
  automation: AutomationRow,
  why: string,
): Promise<void> {
  await transact(db, async (trx) => {
    await finish(trx, engine, run, { state: 'held', matched: 0, said: 0, keptBack: 1, reason: why });
    if (!(await setAutomationState(trx, automation.id, 'paused', why))) return;
    await tellPaused(trx, automation, why);
    await emit(trx, 'automation.changed', { automation: automation.id });
  });
}
