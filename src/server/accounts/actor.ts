import type { Actor } from '../../core/rights/decide.ts';
import { boardsModeratedBy } from '../boards/store.ts';
import type { Database } from '../database/connection.ts';
import { groupsReachedBy } from '../groups/store.ts';
import { personById } from '../people/store.ts';

/** Somebody with their rights as they are now, for what is done in their name; nothing where they have left. */
export async function actorOf(db: Database, personId: number): Promise<Actor | undefined> {
  const person = await personById(db, personId);
  if (!person || person.standing === 'left') return undefined;
  const [moderates, reach] = await Promise.all([
    boardsModeratedBy(db, personId),
    person.role === 'editor' ? groupsReachedBy(db, personId) : [],
  ]);
  return {
    id: person.id,
    role: person.role,
    guest: person.guestUntil !== null,
    moderates: new Set(moderates),
    mayReach: new Set(reach),
  };
}
