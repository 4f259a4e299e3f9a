import type { GroupWays } from '../../core/groups/group.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** What a group is besides its name and who is in it; nothing where there is none. */
export const waysOfGroup = async (db: Database, id: number): Promise<GroupWays | undefined> => {
  const [row] = await rows<{
    about: string;
    clearance: number;
    bundling: string | null;
    joining: GroupWays['joining'];
    brings: number;
    callable: number;
  }>(
    db,
    'SELECT about, needs_clearance AS clearance, bundling, joining, owner_brings AS brings, callable FROM `groups` WHERE id = ?',
    [id],
  );
  return (
    row && {
      about: row.about,
      needsClearance: row.clearance === 1,
      bundling: row.bundling,
      joining: row.joining,
      ownerBrings: row.brings === 1,
      callable: row.callable === 1,
    }
  );
};

export const setWaysOfGroup = (db: Database, id: number, ways: GroupWays): Promise<number> =>
  change(
    db,
    'UPDATE `groups` SET about = ?, needs_clearance = ?, bundling = ?, joining = ?, owner_brings = ?, callable = ? WHERE id = ?',
    [ways.about, ways.needsClearance, ways.bundling, ways.joining, ways.ownerBrings, ways.callable, id],
  );
