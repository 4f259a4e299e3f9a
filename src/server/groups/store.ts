import QuickLRU from 'quick-lru';
import { circleOf, type Group } from '../../core/audience/groups.ts';
import { audienceSchema, type Audience } from '../../core/audience/expression.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { readPlan } from '../../core/stored.ts';
import { change, idsIn, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { onceForAll } from '../database/onceForAll.ts';

/** A live group's rule; null where it cannot be read, so that one bad row does not keep every other group from being read. */
function readRule(json: string | null): Audience | null {
  const text = json ?? 'null';
  const known = rules.get(text);
  if (known !== undefined) return known;
  let rule: Audience | null = null;
  try {
    rule = audienceSchema.parse(JSON.parse(text));
  } catch {
    rule = null;
  }
  rules.set(text, rule);
  return rule;
}

/** What stored rules say, by their text: nearly every request reads every group. */
const rules = new QuickLRU<string, Audience | null>({ maxSize: 2_000 });

/** Every group, by name. Of rules that lead in a circle none can be read: who is in such a group cannot be told. */
export const allGroups = async (db: Database): Promise<Group[]> => (await groupsNow(db)).groups;

/** Every group as `allGroups` gives them, and the moment at which they are so, in milliseconds since 1970. */
export const groupsNow = (db: Database): Promise<{ groups: Group[]; nowMs: number }> =>
  onceForAll(db, ['groups'], () => readGroups(db));

interface StoredGroup {
  id: number;
  name: string;
  kind: 'live' | 'fixed';
  rule: string | null;
  needsClearance: number;
  archived: number;
  callable: number;
  owners: string | null;
}

async function readGroups(db: Database): Promise<{ groups: Group[]; nowMs: number }> {
  const stored = await rows<{ nowMs: number } & (StoredGroup | Record<keyof StoredGroup, null>)>(
    db,
    // With the time, so that there is a row even where there are no groups.
    `SELECT ${ms('t.now')} AS nowMs, g.id, g.name, g.kind, g.rule, g.needs_clearance AS needsClearance,
       g.archived_at IS NOT NULL AS archived, g.callable,
       (SELECT JSON_ARRAYAGG(p.id ORDER BY p.name, p.id) FROM group_owners o JOIN people p ON p.id = o.person_id
        WHERE o.group_id = g.id AND p.standing <> 'left') AS owners
     FROM (SELECT NOW(3) AS now) t LEFT JOIN \`groups\` g ON TRUE ORDER BY g.name`,
  );
  const found = stored.filter((row) => row.id !== null);
  const groups = found.map(({ kind, rule, needsClearance, archived, callable, owners, id, name }): Group => {
    const common = {
      id,
      name,
      ownerIds: idsIn(owners),
      needsClearance: needsClearance === 1,
      archived: archived === 1,
      callable: callable === 1,
    };
    return kind === 'live' ? { ...common, kind, rule: readRule(rule) } : { ...common, kind };
  });
  const byId = new Map(groups.map((group) => [group.id, group]));
  return {
    nowMs: stored[0]?.nowMs ?? 0,
    groups: groups.map((group) =>
      group.kind === 'live' && group.rule !== null && circleOf(group.id, group.rule, byId) !== null
        ? { ...group, rule: null }
        : group,
    ),
  };
}

/** The groups an editor may address. */
export async function groupsReachedBy(db: Database, personId: number): Promise<number[]> {
  const found = await rows<{ groupId: number }>(
    db,
    'SELECT group_id AS groupId FROM editor_reach WHERE person_id = ?',
    [personId],
  );
  return found.map((row) => row.groupId);
}

/** Sets the groups an editor may address. */
export async function setReach(db: Database, personId: number, groupIds: readonly number[]): Promise<void> {
  await change(db, 'DELETE FROM editor_reach WHERE person_id = ?', [personId]);
  if (groupIds.length > 0)
    await db('editor_reach').insert(groupIds.map((group) => ({ person_id: personId, group_id: group })));
}

/** The titles of what some occurrences say. */
export async function titlesOf(db: Database, occurrenceIds: readonly number[]): Promise<Map<number, string>> {
  if (occurrenceIds.length === 0) return new Map();
  const found = await rows<{ id: number; title: string }>(
    db,
    `SELECT o.id, v.title FROM occurrences o JOIN announcement_versions v ON v.id = o.version_id
     WHERE o.id IN (${occurrenceIds.map(() => '?').join(', ')})`,
    occurrenceIds,
  );
  return new Map(found.map(({ id, title }) => [id, title]));
}

/** Sets whether what goes to a group needs a second person's clearance; false where there is no such group. */
export async function setNeedsClearance(db: Database, id: number, needed: boolean): Promise<boolean> {
  return (await change(db, 'UPDATE `groups` SET needs_clearance = ? WHERE id = ?', [needed, id])) > 0;
}

/** Sets whether whoever is on a board with those in it may call on it there; false where there is no such group. */
export async function setCallable(db: Database, id: number, callable: boolean): Promise<boolean> {
  return (await change(db, 'UPDATE `groups` SET callable = ? WHERE id = ?', [callable, id])) > 0;
}

/** Holds every group until the transaction ends, so that of two rules that would lead to each other the second finds the first. */
export async function lockGroups(db: Database): Promise<void> {
  await rows(db, 'SELECT id FROM `groups` ORDER BY id FOR UPDATE');
}

/** Holds a group's row until the transaction ends; gives its kind, or nothing where there is none. */
export async function lockGroup(db: Database, id: number): Promise<Group['kind'] | undefined> {
  const [row] = await rows<{ kind: Group['kind'] }>(db, 'SELECT kind FROM `groups` WHERE id = ? FOR UPDATE', [
    id,
  ]);
  return row?.kind;
}

/** @throws the database's duplicate-key error where there is a group of that name */
export async function changeGroup(
  db: Database,
  id: number,
  {
    name,
    rule,
    about,
  }: { name?: string | undefined; rule?: Audience | undefined; about?: string | undefined },
): Promise<void> {
  await db('groups')
    .where({ id })
    .update({
      ...(name === undefined ? {} : { name }),
      ...(rule === undefined ? {} : { rule: JSON.stringify(rule) }),
      ...(about === undefined ? {} : { about }),
    });
}

/** Archives a group or brings it back; gives whether it was archived before, or nothing where there is none. */
export async function setArchived(db: Database, id: number, archived: boolean): Promise<boolean | undefined> {
  const [row] = await rows<{ was: number }>(
    db,
    'SELECT archived_at IS NOT NULL AS was FROM `groups` WHERE id = ? FOR UPDATE',
    [id],
  );
  await change(
    db,
    'UPDATE `groups` SET archived_at = IF(?, COALESCE(archived_at, NOW(3)), NULL) WHERE id = ?',
    [archived, id],
  );
  return row && row.was === 1;
}

export async function deleteGroupById(db: Database, id: number): Promise<void> {
  await change(db, 'DELETE FROM `groups` WHERE id = ?', [id]);
}

/** The plans that may still go: of drafts, and of sends that are not over, these with their next occurrence. Those that cannot be read are left out. */
export async function plansOf(
  db: Database,
): Promise<{ announcementId: number; occurrenceId: number | null; title: string; plan: Plan }[]> {
  const found = await rows<{
    announcementId: number;
    occurrenceId: number | null;
    title: string;
    plan: string;
  }>(
    db,
    `SELECT a.id AS announcementId, CAST(NULL AS SIGNED) AS occurrenceId, COALESCE(NULLIF(JSON_VALUE(a.content, '$.title'), ''), 'Without a title') AS title,
       a.plan FROM announcements a WHERE a.state IN ('draft', 'template')
     UNION ALL
     SELECT s.announcement_id, CAST(MIN(o.id) AS SIGNED), v.title, s.plan FROM sends s
       JOIN announcement_versions v ON v.id = s.version_id
       JOIN occurrences o ON o.send_id = s.id AND o.state IN ('scheduled', 'going out')
       WHERE s.state <> 'ended' GROUP BY s.id, s.announcement_id, v.title, s.plan`,
  );
  return readable(found);
}

/** What went to people in the last so many days, the latest first, with its plan; what automations say to one person is left out. */
export async function plansSentWithin(
  db: Database,
  days: number,
): Promise<{ occurrenceId: number; title: string; sentMs: number; plan: Plan }[]> {
  const found = await rows<{ occurrenceId: number; title: string; sentMs: number; plan: string }>(
    db,
    `SELECT o.id AS occurrenceId, v.title, ${ms('o.due_at')} AS sentMs, s.plan FROM occurrences o
       JOIN sends s ON s.id = o.send_id JOIN announcement_versions v ON v.id = o.version_id
     WHERE o.state IN ('going out', 'sent') AND o.due_at > NOW(3) - INTERVAL ? DAY AND s.kind NOT IN ('test', 'chase')
       AND s.to_one = 0 AND s.plan LIKE '%"group"%'
     ORDER BY o.due_at DESC, o.id DESC LIMIT 5000`,
    [days],
  );
  return readable(found);
}

/** Rows with their plans read; those that cannot be read are left out. */
function readable<T extends { plan: string }>(found: readonly T[]): (Omit<T, 'plan'> & { plan: Plan })[] {
  return found.flatMap(({ plan, ...row }) => {
    try {
      return [{ ...row, plan: readPlan(plan) }];
    } catch {
      return [];
    }
  });
}

/**
 * Makes a group: live with a rule, or fixed without.
 *
 * @throws the database's duplicate-key error where there is a group of that name
 */
export async function insertGroup(db: Database, name: string, rule: Audience | null): Promise<number> {
  const [id] = await db('groups').insert({
    name,
    kind: rule ? 'live' : 'fixed',
    rule: rule && JSON.stringify(rule),
  });
  return id ?? 0;
}

/** Makes a group live by a rule, or fixed. Its members are the caller's to see to. */
export async function setKind(
  db: Database,
  id: number,
  kind: Group['kind'],
  rule: Audience | null,
): Promise<void> {
  await change(db, 'UPDATE `groups` SET kind = ?, rule = ? WHERE id = ?', [
    kind,
    rule && JSON.stringify(rule),
    id,
  ]);
}
