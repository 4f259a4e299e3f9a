import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { wholeRoll } from './service.ts';

/** More names than this are for a file, not for paper. */
const MOST = 3000;

/** A roll by name for printing, up to some thousands; with how many more there are. */
export async function printedRoll(
  db: Database,
  actor: Actor,
  occurrenceId: number,
): Promise<{
  people: { name: string; station: string | null; answered: boolean; answeredMs: number | null }[];
  more: number;
}> {
  const people: { name: string; station: string | null; answered: boolean; answeredMs: number | null }[] = [];
  let more = 0;
  for await (const page of wholeRoll(db, actor, occurrenceId))
    for (const { name, station, answered, answeredMs } of page)
      if (people.length < MOST) people.push({ name, station, answered: answered === 1, answeredMs });
      else more++;
  return { people, more };
}
