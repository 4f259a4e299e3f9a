import { UNDO_HOURS } from '../../core/imports/import.ts';
import { deleteExpiredSessions } from '../accounts/store.ts';
import { forgetTokens } from '../api/tokenStore.ts';
import { fillFreePlaces } from '../calendar/answering.ts';
import { layAhead } from '../calendar/making.ts';
import type { Database } from '../database/connection.ts';
import { forgetEvents } from '../events/store.ts';
import { forgetKeys } from '../http/idempotencyStore.ts';
import { forgetImports } from '../imports/store.ts';
import { forgetTakeouts } from '../organisation/takeoutStore.ts';
import { TAKEOUT_HOURS } from '../../core/organisation/takeout.ts';
import { DAMAGE_KEPT_DAYS, FORGOTTEN_HOURS } from '../../core/operating/running.ts';
import { forgetDamaged } from '../operating/damageStore.ts';
import { forgetSilent } from '../operating/processStore.ts';
import { endGuests } from '../people/guests.ts';
import { moveLeaves } from '../people/leave.ts';
import { indexLeftOut } from '../search/missing.ts';
import { deleteExpiredSteps } from '../second-factor/store.ts';
import { forgetAnswers } from '../sources/store.ts';
import { recordCountsLately } from '../sends/deliveryCountStore.ts';
import { markSent, goingOut } from './store.ts';

/** What an engine that died left unmarked, and what need not be kept. */
export async function upkeep(db: Database): Promise<void> {
  await markSent(db, await goingOut(db));
  await recordCountsLately(db);
  // What was loaded without events, and what an older version left out.
  await indexLeftOut(db);
  await moveLeaves(db);
  await endGuests(db);
  await fillFreePlaces(db);
}

/** What lies months ahead, and what is over and counts no more: nothing waits for either. */
export async function clearUp(db: Database): Promise<void> {
  await layAhead(db);
  await forgetEvents(db, 24);
  await deleteExpiredSessions(db);
  await deleteExpiredSteps(db);
  await forgetKeys(db, 48);
  await forgetTokens(db, 90);
  await forgetImports(db, UNDO_HOURS);
  await forgetTakeouts(db, TAKEOUT_HOURS);
  await forgetAnswers(db);
  await forgetSilent(db, FORGOTTEN_HOURS);
  await forgetDamaged(db, DAMAGE_KEPT_DAYS);
}
