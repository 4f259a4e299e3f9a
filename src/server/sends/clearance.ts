import { groupsNamedIn, type Audience } from '../../core/audience/expression.ts';
import { isReadable } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { reachesGroup } from '../../core/rights/clearance.ts';
import { countPeople } from '../audience/store.ts';
import type { Database } from '../database/connection.ts';

/** The groups whose people an audience puts in by name, or the rule of one it names; not those it leaves out. */
function groupsPutIn(audience: Audience, now: AudienceContext): number[] {
  if (audience.kind === 'except') return groupsPutIn(audience.from, now);
  return groupsNamedIn(audience).flatMap((id) => {
    const group = now.groups.get(id);
    return [id, ...(group?.kind === 'live' && group.rule !== null ? groupsPutIn(group.rule, now) : [])];
  });
}

/**
 * The groups that ask for a second person's clearance and that a plan reaches: decided by who is reached, by inbox or on a
 * board, and not by how it is said.
 *
 * @param boards the boards it goes up on, by whose place they are
 * @returns their names
 */
export async function groupsToClear(
  db: Database,
  audience: Audience | null,
  boards: readonly { groupId: number | null }[],
  now: AudienceContext,
): Promise<string[]> {
  const places = boards.map((board): Audience =>
    board.groupId === null ? { kind: 'everyone' } : { kind: 'group', id: board.groupId },
  );
  const reached = { kind: 'any' as const, of: [...(audience ? [audience] : []), ...places] };
  const asking = [...now.groups.values()].filter((group) => group.needsClearance);
  if (asking.length === 0 || reached.of.length === 0) return [];
  const whole = isReadable(reached, now) ? await countPeople(db, reached, now) : 0;
  const everybody = await countPeople(db, { kind: 'everyone' }, now);
  const named = new Set(audience ? groupsPutIn(audience, now) : []);
  const found: string[] = [];
  for (const group of asking) {
    if (named.has(group.id)) {
      found.push(group.name);
      continue;
    }
    const itself: Audience = { kind: 'group', id: group.id };
    // Where it cannot be told who is in, it is asked for.
    if (!isReadable({ kind: 'any', of: [itself, reached] }, now)) {
      found.push(group.name);
      continue;
    }
    const [members, among] = await Promise.all([
      countPeople(db, itself, now),
      countPeople(db, { kind: 'all', of: [itself, reached] }, now),
    ]);
    if (reachesGroup({ members, among, reached: whole, everybody })) found.push(group.name);
  }
  return found;
}
