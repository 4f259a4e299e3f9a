import { ruleTrialSchema } from '../../../../core/groups/schemas.ts';
import { ruleOutcome } from '../../../../server/groups/rules.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

/** What another rule would do: who would come in and go out. It changes nothing. */
export const POST = endpointWith(ruleTrialSchema, ({ rule, on }, { db, session, id }) =>
  ruleOutcome(db, session.actor, rule, id(), on),
);
