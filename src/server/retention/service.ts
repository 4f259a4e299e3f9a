import type { KeptChoice } from '../../core/retention/choiceSchema.ts';
import { isShorter, WAIT_HOURS, type Foreseen, type Kept } from '../../core/retention/kinds.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireOrganisation } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { chooseKept, holdKept, keptLong, olderThan } from './store.ts';

/** How long each kind is kept, for whoever looks after the organisation. */
export function retention(db: Database, actor: Actor): Promise<Kept[]> {
  requireOrganisation(actor);
  return keptLong(db);
}

/** What would be forgotten if a kind were kept for so long. */
export async function foresee(db: Database, actor: Actor, { kind, days }: KeptChoice): Promise<Foreseen> {
  requireOrganisation(actor);
  return { kind, days, ...(await olderThan(db, kind, days)) };
}

/** Chooses how long a kind is kept. A shorter choice holds after a day, so that it can be taken back; a longer one at once. */
export async function chooseRetention(
  db: Database,
  actor: Actor,
  { kind, days }: KeptChoice,
): Promise<Kept[]> {
  requireOrganisation(actor);
  await transact(db, async (trx) => {
    await holdKept(trx);
    const now = (await keptLong(trx)).find((each) => each.kind === kind);
    if (!now || now.days === days) return;
    await chooseKept(trx, {
      kind,
      days,
      before: now.daysNow,
      waitHours: isShorter(days, now.daysNow) ? WAIT_HOURS : 0,
      by: actor.id,
    });
    await record(trx, {
      actorId: actor.id,
      action: 'choose retention',
      subject: 'organisation',
      subjectId: 1,
      detail: { kind, days, before: now.days },
    });
  });
  return keptLong(db);
}
