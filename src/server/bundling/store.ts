import { BUNDLINGS, type Bundling } from '../../core/bundling/bundling.ts';
import { UnreadableRule } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { condition, type Sql } from '../audience/sql.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** How routine matter comes to those in groups that have it otherwise, and to everybody else. */
export interface BundlingOfAll {
  ofAll: Bundling;
  /** Who is in a group that has it in some way, the most frequent first. */
  groups: { bundling: Bundling; who: Sql[] }[];
}

/** Reads how the organisation and its groups have routine matter come. A group whose rule cannot be read changes nothing. */
export async function bundlingOfAll(db: Database, now: AudienceContext): Promise<BundlingOfAll> {
  const [ofAll, groups] = await Promise.all([
    rows<{ bundling: Bundling }>(db, 'SELECT bundling FROM organisation WHERE id = 1'),
    rows<{ id: number; bundling: Bundling }>(
      db,
      'SELECT id, bundling FROM `groups` WHERE bundling IS NOT NULL ORDER BY id',
    ),
  ]);
  const who = (id: number): Sql[] => {
    try {
      return [condition({ kind: 'group', id }, now)];
    } catch (error) {
      if (error instanceof UnreadableRule) return [];
      throw error;
    }
  };
  return {
    ofAll: ofAll[0]?.bundling ?? 'as it comes',
    groups: BUNDLINGS.map((bundling) => ({
      bundling,
      who: groups.filter((group) => group.bundling === bundling).flatMap((group) => who(group.id)),
    })).filter((each) => each.who.length > 0),
  };
}

/** SQL over `people p` for how routine matter comes to each, or would come with another choice of their own. */
export function bundlingSql(
  { ofAll, groups }: BundlingOfAll,
  own: 'p.bundling' | 'NULL' = 'p.bundling',
): Sql {
  const ofGroups =
    groups.length === 0
      ? { sql: 'NULL', bindings: [] }
      : {
          sql: `CASE ${groups.map((group) => `WHEN ${group.who.map((each) => each.sql).join(' OR ')} THEN ?`).join(' ')} END`,
          bindings: groups.flatMap((group) => [
            ...group.who.flatMap((each) => each.bindings),
            group.bundling,
          ]),
        };
  return {
    sql: `COALESCE(${own}, ${ofGroups.sql}, ?)`,
    bindings: [...ofGroups.bindings, ofAll],
  };
}

/** Whether anybody at all has routine matter gathered. */
export async function isAnybodyBundled(db: Database, { ofAll, groups }: BundlingOfAll): Promise<boolean> {
  if (ofAll !== 'as it comes' || groups.some((group) => group.bundling !== 'as it comes')) return true;
  return (
    (await rows(db, "SELECT 1 FROM people WHERE bundling IS NOT NULL AND bundling <> 'as it comes' LIMIT 1"))
      .length > 0
  );
}

/** How routine matter comes to somebody by their own choice, and how it would without one. */
export async function bundlingOf(
  db: Database,
  personId: number,
  ofAll: BundlingOfAll,
): Promise<{ own: Bundling | null; otherwise: Bundling }> {
  const without = bundlingSql(ofAll, 'NULL');
  const [row] = await rows<{ own: Bundling | null; otherwise: Bundling }>(
    db,
    `SELECT p.bundling AS own, ${without.sql} AS otherwise FROM people p WHERE p.id = ?`,
    [...without.bindings, personId],
  );
  return row ?? { own: null, otherwise: ofAll.ofAll };
}

export const setBundlingOf = (db: Database, personId: number, bundling: Bundling | null): Promise<number> =>
  change(db, 'UPDATE people SET bundling = ? WHERE id = ?', [bundling, personId]);

export const setBundlingOfAll = (db: Database, bundling: Bundling): Promise<number> =>
  change(db, 'UPDATE organisation SET bundling = ? WHERE id = 1', [bundling]);

/** Sets how routine matter comes to those in a group; null is as it comes to everybody. */
export const setBundlingOfGroup = (db: Database, id: number, bundling: Bundling | null): Promise<number> =>
  change(db, 'UPDATE `groups` SET bundling = ? WHERE id = ?', [bundling, id]);

export async function bundlingOfGroup(db: Database, id: number): Promise<Bundling | null> {
  const [row] = await rows<{ bundling: Bundling | null }>(db, 'SELECT bundling FROM `groups` WHERE id = ?', [
    id,
  ]);
  return row?.bundling ?? null;
}
