import { isReadable } from '../../core/audience/groups.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { countWhere } from '../audience/store.ts';
import type { Database } from '../database/connection.ts';
import { circumstances } from '../groups/directory.ts';
import { peopleNamedAmong, toldApart } from '../people/store.ts';
import { reachOf, seersOf, visibleBoard } from './service.ts';

/** Somebody, a group or everybody, as they can be called on by name on a board. */
export interface CallableOnBoard {
  kind: 'person' | 'group' | 'everybody';
  id: number;
  name: string;
  /** What tells a person from namesakes, or how many are called. */
  detail: string;
}

const MOST_PEOPLE = 8;
const MOST_GROUPS = 5;

const calls = (n: number): string => `calls ${n.toLocaleString('en-GB')}`;

/**
 * Who can be called on by this person on a board, with some letters in their name: people who may see it, groups they may
 * send to with how many of these may see it, and everybody where that is theirs to call.
 */
export async function callableOn(
  db: Database,
  actor: Actor,
  id: number,
  letters: string,
): Promise<CallableOnBoard[]> {
  const board = await visibleBoard(db, actor, id);
  const text = letters.trim().toLowerCase();
  const now = await circumstances(db);
  const seers = seersOf(board, now);
  const everybody = `everybody on ${board.name}`;
  const all = decide(actor, { kind: 'on board', deed: 'mention everybody', board: board.rules });
  const groups = [...now.groups.values()]
    .filter(
      (group) =>
        group.id !== board.groupId &&
        !group.archived &&
        group.name.toLowerCase().includes(text) &&
        isReadable({ kind: 'group', id: group.id }, now) &&
        decide(actor, { kind: 'address', audience: { kind: 'group', id: group.id }, boards: [] }).outcome ===
          'allowed',
    )
    .slice(0, MOST_GROUPS);
  const [people, counts] = await Promise.all([
    peopleNamedAmong(db, seers, letters, MOST_PEOPLE),
    Promise.all(
      groups.map(async (group) => (await countWhere(db, { kind: 'group', id: group.id }, now, seers, 0)).n),
    ),
  ]);
  return [
    ...(all.outcome === 'allowed' && everybody.toLowerCase().includes(text)
      ? [
          {
            kind: 'everybody' as const,
            id,
            name: everybody,
            detail: calls((await reachOf(db, actor, id)).people),
          },
        ]
      : []),
    ...groups.flatMap((group, i): CallableOnBoard[] =>
      (counts[i] ?? 0) === 0
        ? []
        : [{ kind: 'group', id: group.id, name: group.name, detail: calls(counts[i] ?? 0) }],
    ),
    ...people.map((person): CallableOnBoard => ({
      kind: 'person',
      id: person.id,
      name: person.name,
      detail: toldApart(person, people),
    })),
  ];
}
