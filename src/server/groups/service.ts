import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { allGroups } from './store.ts';

/** The groups this person may put in or leave out: all of them for a coordinator, those in reach for an editor. */
export async function groupChoices(
  db: Database,
  actor: Actor,
): Promise<{ id: number; name: string; kind: 'live' | 'fixed' }[]> {
  const groups = await allGroups(db);
  return groups
    .filter((group) => actor.role === 'coordinator' || actor.mayReach.has(group.id))
    .map(({ id, name, kind }) => ({ id, name, kind }));
}
