import { z } from 'zod';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { requireDesk } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { peopleOfAutomation, savePeopleOfAutomation } from './sharingStore.ts';
import { automationById, type AutomationRow } from './store.ts';

const MOST_NAMED = 50;

export const automationPeopleSchema = z
  .object({
    people: z
      .array(z.int().positive())
      .max(MOST_NAMED, `At most ${MOST_NAMED} people are named`)
      .refine((ids) => new Set(ids).size === ids.length, 'Somebody is named twice. Take one of them out.'),
  })
  .strict();

/** Whether an automation is somebody's own, or they are a coordinator: who else may change it is theirs to say. */
export const isTheirs = (actor: Actor, { ownerId }: Pick<AutomationRow, 'ownerId'>): boolean =>
  decide(actor, { kind: 'see send', authorId: ownerId }).outcome === 'allowed';

/**
 * Says who may change an automation beside whoever looks after it. It goes on speaking with its owner's rights, and what somebody
 * else puts to work may be no more than they may do themselves.
 *
 * @throws 403 for all but its owner and coordinators; 404; 422 with who is named and not at the desk
 */
export async function shareAutomation(
  db: Database,
  actor: Actor,
  id: number,
  { people }: z.infer<typeof automationPeopleSchema>,
): Promise<{ people: { id: number; name: string }[] }> {
  requireDesk(actor);
  return transact(db, async (trx) => {
    const found = await automationById(trx, id);
    if (!found) throw notFound('automation');
    if (!isTheirs(actor, found))
      // Whoever may only change it sees that it is there; for anybody else there is none.
      throw (await peopleOfAutomation(trx, id)).some((each) => each.id === actor.id)
        ? new Problem(403, `Who else may change it is for ${found.owner} to say.`)
        : notFound('automation');
    for (const [at, person] of people.entries()) {
      const named = await actorOf(trx, person);
      if (named && decide(named, { kind: 'see the desk' }).outcome === 'allowed') continue;
      const detail = named
        ? 'Automations are written at the desk, and this person is not there. Make them an editor first, or take them out.'
        : 'This person is not there any more. Take them out.';
      throw new Problem(422, detail, { errors: [{ field: `people.${at}`, detail }] });
    }
    await savePeopleOfAutomation(
      trx,
      id,
      people.filter((person) => person !== found.ownerId),
    );
    await record(trx, {
      actorId: actor.id,
      action: 'share',
      subject: 'automation',
      subjectId: id,
      detail: { people },
    });
    await emit(trx, 'automation.changed', { automation: id });
    return { people: await peopleOfAutomation(trx, id) };
  });
}

/**
 * With whose rights an automation is tried before it is put to work: its owner's, for the owner and coordinators; anybody else's
 * own, so that nobody reads by an automation what they may not see.
 *
 * @returns undefined where its owner has left
 */
export async function triedAs(
  db: Database,
  actor: Actor,
  automation: Pick<AutomationRow, 'ownerId'>,
): Promise<Actor | undefined> {
  const owner = await actorOf(db, automation.ownerId);
  return owner && !isTheirs(actor, automation) ? actor : owner;
}
