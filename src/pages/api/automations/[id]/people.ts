import { automationPeopleSchema, shareAutomation } from '../../../../server/automations/sharing.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

/** Says who else may change an automation. */
export const PUT = endpointWith(automationPeopleSchema, (input, { db, session, id }) =>
  shareAutomation(db, session.actor, id(), input),
);
