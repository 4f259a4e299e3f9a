import { decide, type Actor } from '../../core/rights/decide.ts';
import { Problem } from '../problem.ts';

/** A 403 problem with the reason for those who do not work at the desk. */
export function requireDesk(actor: Actor): void {
  const decision = decide(actor, { kind: 'see the desk' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** A 403 problem with the reason for those who do not look after people. */
export function requireLookingAfterPeople(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after people' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** @throws 403 for all but those who look after the organisation */
export function requireOrganisation(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}
