import { renewHookOut } from '../../../../../server/gateways/outService.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

/** Gives a way out a new secret, which is in the answer and nowhere again. */
export const POST = endpoint(({ db, session, settings, id }) =>
  renewHookOut(db, session.actor, id(), settings.CLEAR_BELL_SECRET),
);
