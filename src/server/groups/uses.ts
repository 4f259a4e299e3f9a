import { groupsNamedIn, type Audience } from '../../core/audience/expression.ts';
import { namesGroup } from '../../core/automation/automation.ts';
import type { GroupUse } from '../../core/groups/group.ts';
import { allAutomations } from '../automations/store.ts';
import { allBoards } from '../boards/store.ts';
import type { Database } from '../database/connection.ts';
import { allHooksIn } from '../gateways/inStore.ts';
import { allHooksOut } from '../gateways/outStore.ts';
import { savedAudiences } from '../saved-audiences/store.ts';
import { allGroups, plansOf } from './store.ts';

/** What a group is used in, as far as its name goes: what would say something else without it. */
export async function usesOf(db: Database, id: number): Promise<GroupUse[]> {
  const names = (audience: Audience | null): boolean =>
    audience !== null && groupsNamedIn(audience).includes(id);
  const [boards, plans, saved, automations, hooks, outs, groups] = await Promise.all([
    allBoards(db),
    plansOf(db),
    savedAudiences(db),
    allAutomations(db),
    allHooksIn(db),
    allHooksOut(db),
    allGroups(db),
  ]);
  return [
    ...boards
      .filter((board) => board.groupId === id)
      .map((board): GroupUse => ({ kind: 'board', name: board.name, path: `/boards/${board.id}` })),
    ...plans
      .filter(({ plan }) => names(plan.audience))
      .map(({ announcementId, occurrenceId, title }): GroupUse =>
        occurrenceId === null
          ? { kind: 'draft', name: title, path: `/write/${announcementId}` }
          : { kind: 'send', name: title, path: `/sends/${occurrenceId}` },
      ),
    ...groups
      .filter((group) => group.kind === 'live' && names(group.rule))
      .map((group): GroupUse => ({ kind: 'group', name: group.name, path: `/groups/${group.id}` })),
    ...saved
      .filter(({ audience }) => names(audience))
      .map((each): GroupUse => ({ kind: 'kept audience', name: each.name, path: null })),
    ...automations
      .filter(({ draft, live }) => [draft, live].some((each) => each && namesGroup(each, id)))
      .map((each): GroupUse => ({
        kind: 'automation',
        name: each.draft.name,
        path: `/automations/${each.id}`,
      })),
    ...hooks
      .filter(({ hook: { target } }) => target.kind === 'group' && target.groupId === id)
      .map(({ id: hookId, hook }): GroupUse => ({
        kind: 'way in',
        name: hook.name,
        path: `/gateways/in/${hookId}`,
      })),
    ...outs
      .filter(({ hook }) => hook.groupId === id)
      .map(({ id: hookId, hook }): GroupUse => ({
        kind: 'way out',
        name: hook.name,
        path: `/gateways/out/${hookId}`,
      })),
  ];
}
