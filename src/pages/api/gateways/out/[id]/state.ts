import { onSchema } from '../../../../../server/gateways/inService.ts';
import { switchHookOut } from '../../../../../server/gateways/outService.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';

export const PUT = endpointWith(onSchema, ({ on }, { db, session, id }) =>
  switchHookOut(db, session.actor, id(), on),
);
