import {
  alterHookOut,
  deleteHookOut,
  hookOutSavedSchema,
  openHookOut,
} from '../../../../../server/gateways/outService.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => openHookOut(db, session.actor, id()));

export const PUT = endpointWith(hookOutSavedSchema, (input, { db, session, id }) =>
  alterHookOut(db, session.actor, id(), input),
);

export const DELETE = endpoint(({ db, session, id }) => deleteHookOut(db, session.actor, id()));
