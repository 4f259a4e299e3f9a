import {
  datesNamedIn,
  groupsNamedIn,
  leavesOf,
  occurrencesNamedIn,
  type Audience,
} from '../../core/audience/expression.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { occurrencesByIds } from '../sends/occurrenceStore.ts';
import { openSecretPolls } from '../asks/askStore.ts';

/** What an audience names that this person may not look at: who is in it would be told by counting. */
export interface Unseen {
  groups: ReadonlySet<number>;
  occurrences: ReadonlySet<number>;
  /** Why it is refused, as a sentence; null where nothing is. */
  reason: string | null;
}

const NOT_THEIR_GROUPS = 'It names a group that you do not look after. Take it out, or ask a coordinator.';
const NOT_THEIR_SENDS =
  'It asks who read or answered something that is not yours to see, or is gone. Take that part out.';
const NOT_THEIR_SESSIONS =
  'It asks who comes to a session, which only a coordinator sees. Take that part out.';
const SECRET =
  'It asks who has voted in a poll without names that is still open. Once it has closed, it can be asked.';

/**
 * What of some audiences this person may not look at. Rights are asked of everything an expression names, also of what it
 * leaves out: a count with and without a group tells who is in it.
 */
export async function unseenIn(
  db: Database,
  actor: Actor,
  audiences: readonly (Audience | null)[],
): Promise<Unseen> {
  const named = audiences.flatMap((audience) => audience ?? []);
  const coordinator = actor.role === 'coordinator';
  const groups = new Set(
    coordinator ? [] : named.flatMap(groupsNamedIn).filter((id) => !actor.mayReach.has(id)),
  );
  const asked = [...new Set(named.flatMap(occurrencesNamedIn))];
  const known = coordinator || asked.length === 0 ? null : await occurrencesByIds(db, asked);
  const occurrences = new Set(
    known === null
      ? []
      : asked.filter((id) => {
          const found = known.get(id);
          return (
            !found || decide(actor, { kind: 'see send', authorId: found.createdBy }).outcome === 'denied'
          );
        }),
  );
  const voted = named
    .flatMap(leavesOf)
    .flatMap((part) => (part.kind === 'answered' ? [part.occurrenceId] : []));
  const secret = await openSecretPolls(db, voted);
  // Who comes to a session is for those to see who look after the calendar.
  const comes = !coordinator && named.some((audience) => datesNamedIn(audience).length > 0);
  const reason = comes
    ? NOT_THEIR_SESSIONS
    : groups.size > 0
      ? NOT_THEIR_GROUPS
      : occurrences.size > 0
        ? NOT_THEIR_SENDS
        : secret.length > 0
          ? SECRET
          : null;
  return { groups, occurrences, reason };
}

/** Refuses to look at an audience that names what is not this person's to see; a 403 problem with the reason. */
export async function requireSeen(db: Database, actor: Actor, audience: Audience | null): Promise<void> {
  const { reason } = await unseenIn(db, actor, [audience]);
  if (reason !== null) throw new Problem(403, reason, { errors: [{ field: 'audience', detail: reason }] });
}
