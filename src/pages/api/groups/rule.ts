import { ruleTrialSchema } from '../../../core/groups/schemas.ts';
import { ruleOutcome } from '../../../server/groups/rules.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

/** What a rule would do as that of a new group. It changes nothing. */
export const POST = endpointWith(ruleTrialSchema, ({ rule, on }, { db, session }) =>
  ruleOutcome(db, session.actor, rule, null, on),
);
