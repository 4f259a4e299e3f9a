import { change, rows, type Database } from '../database/connection.ts';

/** Somebody who looks after a group. */
export interface GroupOwner {
  id: number;
  name: string;
}

/** Who look after groups and are still here, by group and by name. Without ids: of every group. */
export async function ownersOfGroups(
  db: Database,
  groupIds?: readonly number[],
): Promise<Map<number, GroupOwner[]>> {
  const found = new Map<number, GroupOwner[]>();
  if (groupIds?.length === 0) return found;
  for (const { groupId, ...owner } of await rows<GroupOwner & { groupId: number }>(
    db,
    `SELECT o.group_id AS groupId, p.id, p.name FROM group_owners o JOIN people p ON p.id = o.person_id
     WHERE p.standing <> 'left'${groupIds ? ` AND o.group_id IN (${groupIds.map(() => '?').join(', ')})` : ''}
     ORDER BY p.name, p.id`,
    groupIds ?? [],
  ))
    found.set(groupId, [...(found.get(groupId) ?? []), owner]);
  return found;
}

/** Whether somebody looks after a group. */
export async function ownsGroup(db: Database, personId: number): Promise<boolean> {
  return (await rows(db, 'SELECT 1 FROM group_owners WHERE person_id = ? LIMIT 1', [personId])).length > 0;
}

/** The groups somebody looks after, by name. */
export function groupsOwnedBy(db: Database, personId: number): Promise<{ id: number; name: string }[]> {
  return rows(
    db,
    `SELECT g.id, g.name FROM group_owners o JOIN \`groups\` g ON g.id = o.group_id
     WHERE o.person_id = ? ORDER BY g.name`,
    [personId],
  );
}

/** Makes somebody look after a group, or no longer; false where it was so before. */
export async function setOwner(
  db: Database,
  groupId: number,
  personId: number,
  looksAfter: boolean,
): Promise<boolean> {
  const changed = await change(
    db,
    looksAfter
      ? 'INSERT IGNORE INTO group_owners (group_id, person_id) VALUES (?, ?)'
      : 'DELETE FROM group_owners WHERE group_id = ? AND person_id = ?',
    [groupId, personId],
  );
  return changed === 1;
}
