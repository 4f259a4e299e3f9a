import { isReadable } from '../../core/audience/groups.ts';
import { listensToGroup, type Automation } from '../../core/automation/automation.ts';
import { testsIn } from '../../core/automation/condition.ts';
import { isIn } from '../audience/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { audienceContext } from '../groups/directory.ts';
import { beginWatching, forgetUnwatched, lastPlace, noteComings } from './comingStore.ts';
import { matchAgain } from './matching.ts';
import { liveAutomations, orphaned, automationById, setAutomationState } from './store.ts';
import { DATES_MS, lineUpDates } from './dates.ts';
import { lineUpTimes } from './timing.ts';
import { notifyPaused } from './notifying.ts';

/** How often at least groups are looked at: what only time causes, as "joined in the last 60 days", is noticed within this. */
const LOOK_MS = 30_000;

/** The groups whose comings and goings live automations listen to. */
const watchedBy = (live: readonly { live: Automation }[]): number[] => [
  ...new Set(live.flatMap(({ live: { when } }) => (listensToGroup(when) ? [when.groupId] : []))),
];

/**
 * Looks at who is in a group now and writes what changed as events, in one transaction. A group that is looked at for the
 * first time has nobody just come: those in it are who it begins with.
 */
export async function lookAtGroup(db: Database, groupId: number): Promise<void> {
  await transact(db, async (trx) => {
    const now = await audienceContext(trx);
    if (!now.groups.has(groupId) || !isReadable({ kind: 'group', id: groupId }, now)) return;
    const first = await beginWatching(trx, groupId);
    const { came, went } = await noteComings(trx, groupId, isIn({ kind: 'group', id: groupId }, now), first);
    for (let at = 0; at < came.length; at += 500)
      await emit(trx, 'group.joined', { group: groupId, comings: came.slice(at, at + 500) });
    for (let at = 0; at < went.length; at += 500)
      await emit(trx, 'group.left', { group: groupId, comings: went.slice(at, at + 500) });
  });
}

/** Pauses automations whose owner has left, and tells the coordinators. */
async function pauseOrphaned(db: Database): Promise<void> {
  for (const { id, owner } of await orphaned(db))
    await transact(db, async (trx) => {
      const why = `${owner}, who looked after it, has left. Somebody else has to take it over.`;
      if (!(await setAutomationState(trx, id, 'paused', why))) return;
      const automation = await automationById(trx, id);
      if (automation) await notifyPaused(trx, automation, why);
      await emit(trx, 'automation.changed', { automation: id });
    });
}

/** Looks at the world for automations: at groups whenever something has happened, and at what time alone changes. */
export class Watch {
  readonly #db: Database;
  #place = -1;
  #lookedAt = 0;
  #datesAt = 0;

  constructor(db: Database) {
    this.#db = db;
  }

  /** One look; cheap while nothing has happened. */
  async look(): Promise<void> {
    const place = await lastPlace(this.#db);
    const due = Date.now() - this.#lookedAt >= LOOK_MS;
    if (place === this.#place && !due) return;
    this.#place = place;
    if (due) this.#lookedAt = Date.now();
    const live = await liveAutomations(this.#db);
    const watched = watchedBy(live);
    for (const groupId of watched) await lookAtGroup(this.#db, groupId);
    if (!due) return;
    await forgetUnwatched(this.#db, watched);
    await pauseOrphaned(this.#db);
    await lineUpTimes(this.#db, live);
    if (Date.now() - this.#datesAt >= DATES_MS) {
      await lineUpDates(this.#db, live);
      this.#datesAt = Date.now();
    }
    for (const each of live)
      if (
        each.live.when.kind === 'meets' &&
        testsIn(each.live.if).some(({ against }) => against.kind === 'now')
      )
        await matchAgain(this.#db, each, null);
  }
}
