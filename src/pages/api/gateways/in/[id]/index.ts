import {
  alterHookIn,
  deleteHookIn,
  hookInSavedSchema,
  openHookIn,
} from '../../../../../server/gateways/inService.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, settings, id }) =>
  openHookIn(db, session.actor, id(), settings.CLEAR_BELL_URL),
);

export const PUT = endpointWith(hookInSavedSchema, (input, { db, session, id }) =>
  alterHookIn(db, session.actor, id(), input),
);

export const DELETE = endpoint(({ db, session, id }) => deleteHookIn(db, session.actor, id()));
