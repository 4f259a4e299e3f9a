import { dateAt } from '../../core/timing/wallTime.ts';
import { weekdayOf } from '../../core/timing/working.ts';
import type { Sql } from '../audience/sql.ts';

/** When something with these buckets comes due in each zone: with its own bucket, or with the last one. */
export function instantsIn(
  buckets: readonly { zone: string; dueMs: number }[],
  zones: readonly string[],
): { zone: string; atMs: number }[] {
  const last = Math.max(...buckets.map((bucket) => bucket.dueMs));
  return zones.map((zone) => ({
    zone,
    atMs: buckets.find((bucket) => bucket.zone === zone || bucket.zone === '')?.dueMs ?? last,
  }));
}

/**
 * A condition over `people p`: those for whom an instant falls on a working day. It is the day on their own clock that
 * counts, their own working days, absences and standing, and the holidays of their station.
 *
 * @param instants for every zone anybody is in, the instant there
 */
export function worksAt(instants: readonly { zone: string; atMs: number }[]): Sql {
  const byDate = new Map<string, string[]>();
  for (const { zone, atMs } of instants) {
    const date = dateAt(atMs, zone);
    byDate.set(date, [...(byDate.get(date) ?? []), zone]);
  }
  const days = [...byDate].map(([date, among]): Sql => ({
    sql: `(p.zone IN (${among.map(() => '?').join(', ')}) AND p.work_days & ? > 0
      AND NOT EXISTS (SELECT 1 FROM absences w WHERE w.person_id = p.id AND ? BETWEEN w.from_on AND w.to_on)
      AND NOT EXISTS (SELECT 1 FROM holidays h WHERE h.on_date = ? AND (h.station_id IS NULL OR h.station_id <=> p.station_id)))`,
    bindings: [...among, 2 ** (weekdayOf(date) - 1), date, date],
  }));
  if (days.length === 0) return { sql: 'FALSE', bindings: [] };
  return {
    sql: `(p.standing = 'active' AND (${days.map((day) => day.sql).join(' OR ')}))`,
    bindings: days.flatMap((day) => day.bindings),
  };
}

/** Two conditions at once. */
export const both = (a: Sql, b: Sql): Sql => ({
  sql: `${a.sql} AND ${b.sql}`,
  bindings: [...a.bindings, ...b.bindings],
});
