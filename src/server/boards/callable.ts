import { isReadable, type Group } from '../../core/audience/groups.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { countWhere } from '../audience/store.ts';
import type { Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { peopleNamedAmong, toldApart } from '../people/store.ts';
import { reachOf, seersOf, visibleBoard, type BoardForReader } from './service.ts';

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
/** Groups that are told of at once: each is counted. */
const MOST_TOLD = 30;

const calls = (n: number): string => `calls ${n.toLocaleString('en-GB')}`;

/** Whether somebody may call on a whole group: it is there for that, or they may send to it. */
const mayCall = (actor: Actor, group: Group): boolean =>
  !group.archived &&
  (group.callable === true ||
    decide(actor, { kind: 'address', audience: { kind: 'group', id: group.id }, boards: [] }).outcome ===
      'allowed');

/**
 * Why somebody may not call on all of those a mention means, on some boards; null where they may, or it calls on one person or
 * on a group that is gone.
 */
export function whyNotCalling(
  actor: Actor,
  boards: readonly Pick<BoardForReader, 'groupId' | 'rules'>[],
  mention: { kind: 'person' | 'group' | 'everybody'; id: number },
  groups: ReadonlyMap<number, Group>,
): string | null {
  if (mention.kind === 'person') return null;
  const group = mention.kind === 'group' ? groups.get(mention.id) : undefined;
  if (mention.kind === 'group' && !group) return null;
  for (const board of boards) {
    if (!group || group.id === board.groupId) {
      const decision = decide(actor, {
        kind: 'on board',
        permission: 'mention everybody',
        board: board.rules,
      });
      if (decision.outcome === 'denied') return decision.reason;
    } else if (!mayCall(actor, group))
      return `You may not call on ${group.name} at once. Name people, or take it out.`;
  }
  return null;
}

/** Of the groups somebody may call on on a board, those whose name holds some letters, with how many of each see the board. */
async function groupsOn(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  letters: string,
  most: number,
): Promise<{ id: number; name: string; people: number }[]> {
  const now = await audienceContext(db);
  const seers = seersOf(board, now);
  const groups = [...now.groups.values()]
    .filter(
      (group) =>
        group.id !== board.groupId &&
        group.name.toLowerCase().includes(letters) &&
        isReadable({ kind: 'group', id: group.id }, now) &&
        mayCall(actor, group),
    )
    // Those that are there to be called on come first.
    .sort((a, b) => Number(b.callable === true) - Number(a.callable === true))
    .slice(0, most);
  const counts = await Promise.all(
    groups.map(async ({ id }) => (await countWhere(db, { kind: 'group', id }, now, seers, 0)).n),
  );
  return groups
    .map(({ id, name }, i) => ({ id, name, people: counts[i] ?? 0 }))
    .filter(({ people }) => people > 0);
}

/** The groups somebody may call on on a board, by name, with how many each calls there. */
export async function groupsCallableOn(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ id: number; name: string; people: number }[]> {
  return groupsOn(db, actor, await visibleBoard(db, actor, id), '', MOST_TOLD);
}

/**
 * Who can be called on by this person on a board, with some letters in their name: people who may see it, groups they may
 * call on with how many of these may see it, and everybody where that is theirs to call.
 */
export async function callableOn(
  db: Database,
  actor: Actor,
  id: number,
  letters: string,
): Promise<CallableOnBoard[]> {
  const board = await visibleBoard(db, actor, id);
  const text = letters.trim().toLowerCase();
  const now = await audienceContext(db);
  const seers = seersOf(board, now);
  const everybody = `everybody on ${board.name}`;
  const all = decide(actor, { kind: 'on board', permission: 'mention everybody', board: board.rules });
  const [people, groups] = await Promise.all([
    peopleNamedAmong(db, seers, letters, MOST_PEOPLE),
    groupsOn(db, actor, board, text, MOST_GROUPS),
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
    ...groups.map((group): CallableOnBoard => ({
      kind: 'group',
      id: group.id,
      name: group.name,
      detail: calls(group.people),
    })),
    ...people.map((person): CallableOnBoard => ({
      kind: 'person',
      id: person.id,
      name: person.name,
      detail: toldApart(person, people),
    })),
  ];
}
