import type { z } from 'zod';
import { audienceWords } from '../../core/audience/words.ts';
import { groupsNamedIn, type Audience } from '../../core/audience/expression.ts';
import type { Group } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import {
  GROUPS_COUNTED,
  type Added,
  type GroupLine,
  type GroupPage,
  type MembersPage,
} from '../../core/groups/group.ts';
import type { addedSchema, groupChangeSchema, newGroupSchema } from '../../core/groups/schemas.ts';
import { normalMail } from '../../core/people/mailAddress.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { isIn } from '../audience/store.ts';
import { doorOf } from './joiningStore.ts';
import { latelyTo } from './lately.ts';
import { bundlingOfGroup } from '../bundling/store.ts';
import { allBoards } from '../boards/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { audienceNames, audienceContext } from './directory.ts';
import {
  countEach,
  countMembers,
  countWhoIs,
  deleteMember,
  insertMembers,
  insertThose,
  peopleCalled,
  peopleWhere,
} from './memberStore.ts';
import { ownersOfGroups } from './ownerStore.ts';
import { requireRule, requireTellable } from './rules.ts';
import { usesOf } from './uses.ts';
import { isSeen, requireLookingAfterGroups, seen, visible, whoIsIn } from './seeing.ts';
import { changeGroup, deleteGroupById, insertGroup, lockGroup, lockGroups } from './store.ts';

const PAGE = 50;

const isLookingAfter = (actor: Actor): boolean =>
  decide(actor, { kind: 'look after the organisation' }).outcome === 'allowed';

/** A 404 problem where this person does not see a group. */
export async function requireGroupSeen(db: Database, actor: Actor, id: number): Promise<void> {
  visible(actor, await audienceContext(db), id);
}

/** How many are in each of some groups: the fixed ones in one statement, the live ones many at once. */
async function countsOf(
  db: Database,
  groups: readonly Group[],
  now: AudienceContext,
): Promise<Map<number, number>> {
  const [only, ...others] = groups;
  if (only && others.length === 0) {
    const who = whoIsIn(only, now);
    return new Map(who ? [[only.id, await countWhoIs(db, who)]] : []);
  }
  const live = groups.flatMap((group) => {
    const who = group.kind === 'live' ? whoIsIn(group, now) : null;
    return who ? [{ id: group.id, who }] : [];
  });
  const [members, counted] = await Promise.all([
    countMembers(db),
    countEach(
      db,
      live.map(({ who }) => who),
    ),
  ]);
  return new Map([
    ...groups.flatMap((group): [number, number][] =>
      group.kind === 'fixed' ? [[group.id, members.get(group.id) ?? 0]] : [],
    ),
    ...live.map(({ id }, at): [number, number] => [id, counted[at] ?? 0]),
  ]);
}

async function linesOf(
  db: Database,
  groups: readonly Group[],
  now: AudienceContext,
  counted: readonly Group[] = groups,
): Promise<GroupLine[]> {
  const [owners, boards] = await Promise.all([
    ownersOfGroups(
      db,
      groups.map((group) => group.id),
    ),
    allBoards(db),
  ]);
  const counts = await countsOf(db, counted, now);
  const isCounted = new Set(counted.map((group) => group.id));
  const lines: GroupLine[] = [];
  for (const group of groups) {
    lines.push({
      id: group.id,
      name: group.name,
      kind: group.kind,
      needsClearance: group.needsClearance,
      callable: group.callable === true,
      owners: owners.get(group.id) ?? [],
      ...(isCounted.has(group.id) ? { people: counts.get(group.id) ?? null } : {}),
      boards: boards.filter((board) => board.groupId === group.id).map((board) => board.name),
      archived: group.archived,
    });
  }
  return lines;
}

/** The groups, by name; how many are in each is told of the first that are in use. */
export async function listGroups(db: Database, actor: Actor): Promise<GroupLine[]> {
  requireDesk(actor);
  const now = await audienceContext(db);
  const all = seen(actor, now);
  return linesOf(db, all, now, all.filter((group) => !group.archived).slice(0, GROUPS_COUNTED));
}

/** How many are in some groups, by id; null where a rule cannot be read. What one does not see is left out. */
export async function countGroups(
  db: Database,
  actor: Actor,
  ids: readonly number[],
): Promise<Record<number, number | null>> {
  requireDesk(actor);
  const now = await audienceContext(db);
  const wanted = new Set(ids);
  const groups = seen(actor, now).filter((group) => wanted.has(group.id));
  const counts = await countsOf(db, groups, now);
  return Object.fromEntries(groups.map((group) => [group.id, counts.get(group.id) ?? null]));
}

/** A page of who is in a group, by name. */
export async function groupMembers(
  db: Database,
  actor: Actor,
  id: number,
  after: MembersPage['next'],
): Promise<MembersPage> {
  const now = await audienceContext(db);
  const who = whoIsIn(visible(actor, now, id), now);
  const found = who ? await peopleWhere(db, who, after, PAGE + 1) : [];
  const shown = found.slice(0, PAGE);
  const last = shown.at(-1);
  return {
    members: shown.map(({ id: personId, name, station }) => ({ id: personId, name, station })),
    next: found.length > PAGE && last ? { name: last.sorted, id: last.id } : null,
  };
}

/** A group with its first members, its rule, and what it is used in. */
export async function groupPage(db: Database, actor: Actor, id: number): Promise<GroupPage> {
  const now = await audienceContext(db);
  const group = visible(actor, now, id);
  const rule = group.kind === 'live' ? group.rule : null;
  const [lines, members, uses, names, together, door, lately] = await Promise.all([
    linesOf(db, [group], now),
    groupMembers(db, actor, id, null),
    isLookingAfter(actor) ? usesOf(db, id) : [],
    audienceNames(db, now, [rule], {
      groups: new Set(rule ? groupsNamedIn(rule).filter((each) => !isSeen(actor, each)) : []),
      occurrences: new Set(),
    }),
    bundlingOfGroup(db, id),
    doorOf(db, id),
    latelyTo(db, id),
  ]);
  const [line] = lines;
  if (!line) throw notFound('group');
  return {
    ...line,
    ...members,
    people: line.people ?? null,
    bundling: together,
    rule,
    ruleWords: rule ? audienceWords(rule, names) : '',
    uses,
    mayChange: isLookingAfter(actor),
    about: door?.about ?? '',
    lately,
  };
}

const nameTaken = (error: unknown): never => {
  if (!isDuplicate(error)) throw error;
  throw new Problem(422, 'There is a group of this name already.', {
    errors: [{ field: 'name', detail: 'There is a group of this name already. Choose another.' }],
  });
};

/** Makes a group: live with a rule, or fixed, with nobody in it or whoever is in an audience now. */
export async function makeGroup(
  db: Database,
  actor: Actor,
  { name, rule, begin = null }: Omit<z.infer<typeof newGroupSchema>, 'begin'> & { begin?: Audience | null },
): Promise<number> {
  requireLookingAfterGroups(actor);
  return transact(db, async (trx) => {
    const now = await audienceContext(trx);
    if (rule) await requireTellable(trx, rule, now);
    if (begin) await requireTellable(trx, begin, now, 'begin');
    const id = await insertGroup(trx, name, rule).catch(nameTaken);
    await record(trx, {
      actorId: actor.id,
      action: 'make group',
      subject: 'group',
      subjectId: id,
      detail: { name, rule, ...(begin ? { begin } : {}) },
    });
    if (begin) await insertThose(trx, id, isIn(begin, now));
    await emit(trx, 'group.changed', { group: id });
    return id;
  });
}

/** Renames a group, or gives a live one another rule. From that moment the rule holds for all that has not gone. */
export async function alterGroup(
  db: Database,
  actor: Actor,
  id: number,
  change: z.infer<typeof groupChangeSchema>,
): Promise<void> {
  requireLookingAfterGroups(actor);
  await transact(db, async (trx) => {
    if (change.rule !== undefined) await lockGroups(trx);
    const kind = await lockGroup(trx, id);
    if (kind === undefined) throw notFound('group');
    if (change.rule !== undefined && kind === 'fixed')
      throw new Problem(409, 'The people of this group are picked by hand; it has no rule.');
    if (change.rule !== undefined) await requireRule(trx, id, change.rule);
    await changeGroup(trx, id, change).catch(nameTaken);
    await record(trx, {
      actorId: actor.id,
      action:
        change.rule !== undefined
          ? 'change rule'
          : change.name !== undefined
            ? 'rename group'
            : 'say what group is for',
      subject: 'group',
      subjectId: id,
      detail: change,
    });
    await emit(trx, 'group.changed', { group: id });
  });
}

/** Puts people into a fixed group: by id, and by address or whole name as one pastes them from a list. */
export async function addMembers(
  db: Database,
  actor: Actor,
  id: number,
  { ids, lines }: z.infer<typeof addedSchema>,
): Promise<Added> {
  requireLookingAfterGroups(actor);
  const written = [...new Set(lines.map((line) => line.trim()).filter((line) => line !== ''))];
  const mailOf = (line: string): string =>
    line.includes('@') ? normalMail(/<([^<>]+)>\s*$/.exec(line)?.[1] ?? line) : line;
  const called = await peopleCalled(db, [...new Set(written.map(mailOf))]);
  const one = (line: string): number | undefined => {
    const found = called.get(mailOf(line)) ?? [];
    return found.length === 1 ? found[0] : undefined;
  };
  const wanted = new Set([...ids, ...written.flatMap((line) => one(line) ?? [])]);
  return transact(db, async (trx) => {
    const kind = await lockGroup(trx, id);
    if (kind === undefined) throw notFound('group');
    if (kind === 'live')
      throw new Problem(409, 'Who is in this group follows from its rule. Change the rule instead.');
    const joined = await insertMembers(trx, id, [...wanted]);
    if (joined.length > 0) {
      await record(trx, {
        actorId: actor.id,
        action: 'add to group',
        subject: 'group',
        subjectId: id,
        detail: { people: joined.slice(0, 100), added: joined.length },
      });
      await emit(trx, 'group.membership changed', { group: id, joined, left: [] });
    }
    return {
      added: joined.length,
      already: wanted.size - joined.length,
      unknown: written.filter((line) => one(line) === undefined),
    };
  });
}

/** Takes somebody out of a fixed group. */
export async function removeMember(db: Database, actor: Actor, id: number, personId: number): Promise<void> {
  requireLookingAfterGroups(actor);
  await transact(db, async (trx) => {
    const kind = await lockGroup(trx, id);
    if (kind === undefined) throw notFound('group');
    if (kind === 'live')
      throw new Problem(409, 'Who is in this group follows from its rule. Change the rule instead.');
    if (!(await deleteMember(trx, id, personId))) throw notFound('person');
    await record(trx, {
      actorId: actor.id,
      action: 'take out of group',
      subject: 'group',
      subjectId: id,
      detail: { person: personId },
    });
    await emit(trx, 'group.membership changed', { group: id, joined: [], left: [personId] });
  });
}

/** A 409 problem that says what a group is still used in. */
export async function refuseWhereUsed(db: Database, id: number): Promise<void> {
  const uses = await usesOf(db, id);
  if (uses.length === 0) return;
  const named = uses
    .slice(0, 5)
    .map((use) => `${use.kind} “${use.name}”`)
    .join(', ');
  throw new Problem(
    409,
    `It is still used: ${named}${uses.length > 5 ? ` and ${uses.length - 5} more` : ''}. Change these first.`,
  );
}

/** Deletes a group that nothing speaks of any more; a 409 problem that says what does. */
export async function deleteGroup(db: Database, actor: Actor, id: number): Promise<void> {
  requireLookingAfterGroups(actor);
  await transact(db, async (trx) => {
    if ((await lockGroup(trx, id)) === undefined) throw notFound('group');
    await refuseWhereUsed(trx, id);
    await deleteGroupById(trx, id);
    await record(trx, { actorId: actor.id, action: 'delete group', subject: 'group', subjectId: id });
    await emit(trx, 'group.changed', { group: id });
  });
}
