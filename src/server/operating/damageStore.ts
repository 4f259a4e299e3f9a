import type { DamagedNode } from '../../core/operating/running.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** Database servers that were found damaged within some days, the latest first (see `noteDamage`). */
export const damagedNodes = (db: Database, days: number): Promise<DamagedNode[]> =>
  rows(
    db,
    `SELECT node, ${ms('found_at')} AS atMs, words FROM damaged_nodes WHERE found_at > NOW(3) - INTERVAL ? DAY ORDER BY found_at DESC LIMIT 20`,
    [days],
  );

/** Forgets those that have not been found damaged for some days; until then a proxy sends them nothing. */
export const forgetDamaged = (db: Database, days: number): Promise<number> =>
  change(db, 'DELETE FROM damaged_nodes WHERE found_at < NOW(3) - INTERVAL ? DAY', [days]);
