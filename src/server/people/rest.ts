import { quietUntil, type Quiet } from '../../core/timing/quiet.ts';
import type { Database } from '../database/connection.ts';
import { clocks, organisation } from './store.ts';

/** Readers who have a clock and quiet hours in common, and rest until an instant. `quiet` null: as the organisation. */
export interface Resting {
  zone: string;
  quiet: Quiet | null;
  untilMs: number;
}

/** The clocks on which it is quiet at an instant, with the instant their rest ends. */
export function restingAt(
  atMs: number,
  found: readonly { zone: string; quiet: Quiet | null }[],
  quietOfAll: Quiet | null,
): Resting[] {
  return found
    .map(({ zone, quiet }) => ({ zone, quiet, untilMs: quietUntil(atMs, zone, quiet ?? quietOfAll) }))
    .filter(({ untilMs }) => untilMs > atMs);
}

/** Who rests at an instant. */
export async function whoRests(db: Database, atMs: number): Promise<Resting[]> {
  const [found, home] = await Promise.all([clocks(db), organisation(db)]);
  return restingAt(atMs, found, home?.quiet ?? null);
}

/** SQL over `people p` for the instant until which each rests; null for whoever does not. */
export function restSql(resting: readonly Resting[]): { sql: string; bindings: (string | Date | null)[] } {
  if (resting.length === 0) return { sql: 'NULL', bindings: [] };
  return {
    sql: `CASE ${resting.map(() => 'WHEN p.zone = ? AND p.quiet_from <=> ? AND p.quiet_to <=> ? THEN ?').join(' ')} END`,
    bindings: resting.flatMap(({ zone, quiet, untilMs }) => [
      zone,
      quiet?.from ?? null,
      quiet?.to ?? null,
      new Date(untilMs),
    ]),
  };
}
