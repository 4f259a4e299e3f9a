import {
  alterHookIn,
  deleteHookIn,
  hereIn,
  hookInSavedSchema,
  openHookIn,
} from '../../../../../server/gateways/inService.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, settings, id }) =>
  openHookIn(db, session.actor, id(), hereIn(settings)),
);

export const PUT = endpointWith(hookInSavedSchema, (input, { db, session, id }) =>
  alterHookIn(db, session.actor, id(), input),
);

export const DELETE = endpoint(({ db, session, id }) => deleteHookIn(db, session.actor, id()));
