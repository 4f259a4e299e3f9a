import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { openSecretPolls } from './askStore.ts';

/** Whether an occurrence is a chase of an open poll without names: whoever it goes to has not voted. */
export const tellsWhoVoted = async (db: Database, occurrence: { chases: number | null }): Promise<boolean> =>
  occurrence.chases !== null && (await openSecretPolls(db, [occurrence.chases])).length > 0;

/** Refuses to name those a chase of an open poll without names goes to; a 409 problem with the reason. */
export async function requireNamesTold(db: Database, occurrence: { chases: number | null }): Promise<void> {
  if (await tellsWhoVoted(db, occurrence))
    throw new Problem(
      409,
      'This reminds those who have not voted in a poll without names. Who they are is told once it has closed.',
    );
}
