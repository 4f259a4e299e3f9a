import type { Door, GroupOffer, GroupRequest, Joining } from '../../core/groups/joining.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { ownersOfGroups } from './ownerStore.ts';

interface DoorRow extends Door {
  id: number;
  name: string;
  kind: 'fixed' | 'live';
  /** Who look after it, while they are here. */
  ownerIds: number[];
  archived: boolean;
}

/** How a group takes people in; held until the transaction ends where that is wanted. */
export async function doorOf(db: Database, id: number, held = false): Promise<DoorRow | undefined> {
  const [row] = await rows<
    Omit<DoorRow, 'ownerBrings' | 'archived' | 'ownerIds'> & { ownerBrings: number; archived: number }
  >(
    db,
    `SELECT g.id, g.name, g.kind, g.joining, g.owner_brings AS ownerBrings, g.about, g.archived_at IS NOT NULL AS archived
     FROM \`groups\` g WHERE g.id = ?${held ? ' FOR UPDATE' : ''}`,
    [id],
  );
  if (!row) return undefined;
  const ownerIds = ((await ownersOfGroups(db, [id])).get(id) ?? []).map((owner) => owner.id);
  return { ...row, ownerIds, ownerBrings: row.ownerBrings === 1, archived: row.archived === 1 };
}

export async function setDoor(
  db: Database,
  id: number,
  { joining, ownerBrings, about }: Door,
): Promise<void> {
  await change(db, 'UPDATE `groups` SET joining = ?, owner_brings = ?, about = ? WHERE id = ?', [
    joining,
    ownerBrings,
    about,
    id,
  ]);
}

const MEMBERS = `(SELECT COUNT(*) FROM group_members m JOIN people p ON p.id = m.person_id
  WHERE m.group_id = g.id AND p.standing <> 'left')`;

/** The fixed groups somebody is in or may come into, by name. */
export async function offersTo(
  db: Database,
  personId: number,
  which: 'all' | 'those they are in',
): Promise<GroupOffer[]> {
  const found = await rows<Omit<GroupOffer, 'owners'>>(
    db,
    `SELECT g.id, g.name, g.about, g.joining, ${MEMBERS} AS people,
       IF(mine.person_id IS NOT NULL, 'in', IF(r.person_id IS NOT NULL, 'asked', 'out')) AS mine
     FROM \`groups\` g
     LEFT JOIN group_members mine ON mine.group_id = g.id AND mine.person_id = ?
     LEFT JOIN group_requests r ON r.group_id = g.id AND r.person_id = ?
     WHERE g.kind = 'fixed' AND g.archived_at IS NULL AND (${which === 'all' ? "g.joining <> 'closed' OR" : ''} mine.person_id IS NOT NULL) ORDER BY g.name`,
    [personId, personId],
  );
  const owners = await ownersOfGroups(
    db,
    found.map((group) => group.id),
  );
  return found.map((group) => ({
    ...group,
    owners: (owners.get(group.id) ?? []).map((owner) => owner.name),
  }));
}

/** The fixed groups somebody looks after, by name. */
export async function ownedBy(
  db: Database,
  personId: number,
): Promise<{ id: number; name: string; joining: Joining; ownerBrings: boolean; people: number }[]> {
  const found = await rows<{
    id: number;
    name: string;
    joining: Joining;
    ownerBrings: number;
    people: number;
  }>(
    db,
    `SELECT g.id, g.name, g.joining, g.owner_brings AS ownerBrings, ${MEMBERS} AS people FROM group_owners o JOIN \`groups\` g ON g.id = o.group_id
     WHERE o.person_id = ? AND g.kind = 'fixed' ORDER BY g.name`,
    [personId],
  );
  return found.map((row) => ({ ...row, ownerBrings: row.ownerBrings === 1 }));
}

/** Who asks to come into some groups, by group, the longest waiting first. */
export async function requestsFor(
  db: Database,
  groupIds: readonly number[],
): Promise<Map<number, GroupRequest[]>> {
  const found = new Map<number, GroupRequest[]>();
  if (groupIds.length === 0) return found;
  for (const { groupId, ...request } of await rows<GroupRequest & { groupId: number }>(
    db,
    `SELECT r.group_id AS groupId, p.id AS personId, p.shown_name AS name, CONCAT_WS(', ', NULLIF(p.occupation, ''), s.name) AS detail,
       r.words, ${ms('r.asked_at')} AS askedMs
     FROM group_requests r JOIN people p ON p.id = r.person_id LEFT JOIN stations s ON s.id = p.station_id
     WHERE p.standing <> 'left' AND r.group_id IN (${groupIds.map(() => '?').join(', ')}) ORDER BY r.asked_at, p.id`,
    groupIds,
  ))
    found.set(groupId, [...(found.get(groupId) ?? []), request]);
  return found;
}

/** Notes that somebody asks; false where they had asked already. */
export async function insertRequest(
  db: Database,
  groupId: number,
  personId: number,
  words: string,
): Promise<boolean> {
  const made = await change(
    db,
    'INSERT IGNORE INTO group_requests (group_id, person_id, words) VALUES (?, ?, ?)',
    [groupId, personId, words],
  );
  return made === 1;
}

export async function deleteRequest(db: Database, groupId: number, personId: number): Promise<boolean> {
  return (
    (await change(db, 'DELETE FROM group_requests WHERE group_id = ? AND person_id = ?', [
      groupId,
      personId,
    ])) === 1
  );
}
