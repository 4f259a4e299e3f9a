import type { Leave } from '../../core/people/leave.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { setLeave, standAs, standingOtherwise, zonesOfLeaves } from './leaveStore.ts';
import { hasNoPage, lockPerson, personById } from './store.ts';

/**
 * Notes when somebody is on leave; null ends it. It holds by their own clock, from the first second of its first day to the last
 * of its last one, and from now on where that is now.
 */
export async function chooseLeave(
  db: Database,
  actor: Actor,
  id: number,
  leave: Leave | null,
): Promise<void> {
  requireLookingAfterPeople(actor);
  await transact(db, async (trx) => {
    await lockPerson(trx, id);
    const person = await personById(trx, id);
    if (!person || (await hasNoPage(trx, id))) throw notFound('person');
    if (person.standing === 'left')
      throw new Problem(409, `${person.name} has left. Mark them as back first.`);
    const today = dateAt(await databaseNow(trx), person.zone);
    if (leave !== null && leave.until !== null && leave.until < today)
      throw new Problem(422, 'That leave is over already.', {
        errors: [{ field: 'until', detail: 'That leave is over already. Choose today or a later day.' }],
      });
    await setLeave(trx, id, leave);
    const away = leave !== null && leave.from <= today;
    await standAs(trx, id, away ? 'on leave' : 'active', today);
    await record(trx, {
      actorId: actor.id,
      action: leave ? 'note leave' : 'end leave',
      subject: 'person',
      subjectId: id,
      ...(leave ? { detail: { ...leave } } : {}),
    });
    await emit(trx, 'person.changed', { person: id });
  });
}

/** Moves everybody whose leave has begun or ended since, each by their own clock. */
export async function moveLeaves(db: Database): Promise<void> {
  const [zones, nowMs] = await Promise.all([zonesOfLeaves(db), databaseNow(db)]);
  for (const zone of zones) {
    const today = dateAt(nowMs, zone);
    await transact(db, async (trx) => {
      for (const { id, becomes } of await standingOtherwise(trx, zone, today))
        if (await standAs(trx, id, becomes, today)) await emit(trx, 'person.changed', { person: id });
    });
  }
}
