import { onSchema, switchHookIn } from '../../../../../server/gateways/inService.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';

export const PUT = endpointWith(onSchema, ({ on }, { db, session, id }) =>
  switchHookIn(db, session.actor, id(), on),
);
