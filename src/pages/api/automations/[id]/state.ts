import { stateSchema, switchAutomation } from '../../../../server/automations/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const PUT = endpointWith(stateSchema, ({ on }, { db, session, id }) =>
  switchAutomation(db, session.actor, id(), on),
);
