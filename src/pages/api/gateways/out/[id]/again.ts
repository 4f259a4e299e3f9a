import { againSchema, sendAgain } from '../../../../../server/gateways/outService.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';

/** Hands one event over once more, or all since an instant. */
export const POST = endpointWith(againSchema, (which, { db, session, id }) =>
  sendAgain(db, session.actor, id(), which),
);
