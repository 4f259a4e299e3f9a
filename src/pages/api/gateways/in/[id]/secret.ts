import { renewHookIn } from '../../../../../server/gateways/inService.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

/** Gives a way in a new secret, which is in the answer and nowhere again. */
export const POST = endpoint(({ db, session, settings, id }) =>
  renewHookIn(db, session.actor, id(), settings.CLEAR_BELL_SECRET),
);
