import type { Audience } from '../../core/audience/expression.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { rows, type Database } from '../database/connection.ts';
import { isIn, MAIL_FAILS } from './store.ts';

/**
 * How many of an audience have an address from which mail comes back: few, if any, and found by an index of their own.
 *
 * @param stoppable whether those who stopped mail get none anyhow, and are not counted
 */
export async function countFailing(
  db: Database,
  audience: Audience,
  now: AudienceContext,
  stoppable: boolean,
): Promise<number> {
  const who = isIn(audience, now);
  const [row] = await rows<{ n: number }>(
    db,
    `SELECT COUNT(*) AS n FROM people p WHERE ${MAIL_FAILS}
       ${stoppable ? 'AND p.mail_stopped_at IS NULL' : ''} AND ${who.sql}`,
    who.bindings,
  );
  return row?.n ?? 0;
}
