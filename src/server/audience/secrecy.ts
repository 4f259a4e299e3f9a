import type { Audience } from '../../core/audience/expression.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { openSecretPolls } from '../asks/askStore.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { lookedAt } from './store.ts';

/**
 * Refuses to name those in an audience that is told by who has voted in a poll without names that is still open: whoever watched
 * the names come in beside the count would know the votes.
 *
 * @param field the field at which it is told
 * @throws 422
 */
export async function requireNoOpenBallot(
  db: Database,
  audience: Audience,
  now: AudienceContext,
  field: string,
): Promise<void> {
  const asked = lookedAt(audience, now).flatMap((part) =>
    part.kind === 'answered' ? [part.occurrenceId] : [],
  );
  if ((await openSecretPolls(db, asked)).length === 0) return;
  const detail = 'Who has voted in a poll without names is not told while it is open. Close the poll first.';
  throw new Problem(422, detail, { errors: [{ field, detail }] });
}
