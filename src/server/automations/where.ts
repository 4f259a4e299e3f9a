import type { Audience } from '../../core/audience/expression.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { Automation } from '../../core/automation/automation.ts';
import type { Item } from '../../core/automation/items.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import type { BoardForReader } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import type { HookOutRow } from '../gateways/outStore.ts';
import { ruleOf } from '../gateways/places.ts';
import type { Around } from './around.ts';
import { askedOf, authorOf } from './askCauses.ts';
import { theseOf } from './reaching.ts';
import { invitedTo } from './sessionDates.ts';

/** A value by which nobody was found, and the system it is of. */
export interface Missing {
  system: string;
  value: string;
}

/** Where something is said. */
export interface Where {
  audience: Audience | null;
  /** The one person it is for; null where it is for an audience or boards alone. */
  personId: number | null;
  boards: number[];
  /** The outside places it travels to. */
  outside: number[];
  /** Whether it goes the other way, since nobody was found, and why. */
  otherwise: boolean;
  reason: string | null;
  missing: Missing | null;
}

/** What is known while it is found out where something is said. */
export interface Reaching {
  db: Database;
  read: Around;
  owner: Actor;
  automation: Automation;
  now: AudienceContext;
  boards: Map<number, BoardForReader>;
  places: HookOutRow[];
  groupId: number | null;
}

/** Whom an item is for, and on which boards; or why nobody was found. */
export async function whereOf(
  around: Reaching,
  item: Item,
): Promise<Where | { reason: string; missing: Missing | null }> {
  const { db, owner, automation, now, boards } = around;
  const { to, boards: fixed, boardField, outside } = automation.tell;
  const none = { otherwise: false, reason: null, missing: null };
  const places = [...fixed];
  if (boardField !== null) {
    const named = (item.values.get(boardField) ?? '').trim().toLowerCase();
    const board = [...boards.values()].find((each) => !each.archived && each.name.toLowerCase() === named);
    if (!board)
      return { reason: named === '' ? 'No board is named.' : `There is no board “${named}”.`, missing: null };
    places.push(board.id);
  }
  const on = { boards: [...new Set(places)], outside, ...none };
  switch (to?.kind) {
    case undefined:
      return { audience: null, personId: null, ...on };
    case 'audience':
      return { audience: to.audience, personId: null, ...on };
    case 'person': {
      const personId = item.rows[0]?.id ?? 0;
      const inGroup: Audience[] =
        around.groupId !== null && automation.when.kind !== 'leaves'
          ? [{ kind: 'group', id: around.groupId }]
          : [];
      // Whoever is out of the group again when it is due is not welcomed into it.
      const audience: Audience =
        inGroup.length === 0
          ? theseOf(owner, [personId])
          : { kind: 'all', of: [...inGroup, { kind: 'person', id: personId }] };
      return { audience, personId, ...on };
    }
    case 'named': {
      const value = item.values.get(to.field) ?? '';
      const found = await around.read.whoIs(to.system, value);
      return 'personId' in found
        ? { audience: theseOf(owner, [found.personId]), personId: found.personId, ...on }
        : { reason: found.reason, missing: value === '' ? null : { system: to.system, value } };
    }
    case 'invited': {
      const audience = await invitedTo(db, item.rows[0]?.id ?? 0, to.which);
      return audience === null
        ? { reason: 'The session is not there any more.', missing: null }
        : { audience, personId: null, ...on };
    }
    case 'asked': {
      const audience = await askedOf(db, item.rows[0]?.id ?? 0, to.which);
      return 'reason' in audience ? { ...audience, missing: null } : { audience, personId: null, ...on };
    }
    case 'author': {
      const author = await authorOf(db, item.rows[0]?.id ?? 0);
      return author === undefined
        ? { reason: 'It was withdrawn meanwhile.', missing: null }
        : { audience: theseOf(owner, [author]), personId: author, ...on };
    }
    case 'owner': {
      const group = now.groups.get(to.groupId);
      const owners = group?.ownerIds ?? [];
      return owners.length === 0
        ? { reason: `Nobody looks after ${group?.name ?? 'that group'}.`, missing: null }
        : {
            audience: theseOf(owner, owners),
            personId: owners.length === 1 ? (owners[0] ?? null) : null,
            ...on,
          };
    }
  }
}

/** Whether the owner may say this there, as their rights are now; why not, or null. */
export function whyNot(around: Reaching, where: Where): string | null {
  const rules = where.boards.flatMap((id) => around.boards.get(id)?.rules ?? []);
  if (rules.length < where.boards.length) return 'A board it goes up on is not there any more.';
  const places = around.places.filter(({ id }) => where.outside.includes(id));
  if (places.length < where.outside.length) return 'An outside place it travels to is not there any more.';
  const decision = decide(around.owner, {
    kind: 'address',
    audience: where.audience,
    boards: rules,
    outside: places.map(({ hook }) => ruleOf(hook)),
    recurs: true,
  });
  return decision.outcome === 'denied' ? decision.reason : null;
}
