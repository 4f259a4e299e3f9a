import type { Group } from '../../core/audience/groups.ts';
import { liveRuleSchema } from '../../core/audience/groups.ts';
import { rows, type Database } from '../database/connection.ts';

/** Every group, by name. */
export async function allGroups(db: Database): Promise<Group[]> {
  const found = await rows<{ id: number; name: string; kind: 'live' | 'fixed'; rule: string | null }>(
    db,
    'SELECT id, name, kind, rule FROM `groups` ORDER BY name',
  );
  return found.map(({ id, name, kind, rule }) =>
    kind === 'live'
      ? { id, name, kind, rule: liveRuleSchema.parse(JSON.parse(rule ?? 'null')) }
      : { id, name, kind },
  );
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
