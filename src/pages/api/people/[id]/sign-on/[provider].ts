import { endpoint } from '../../../../../server/http/endpoint.ts';
import { forgetSignOn } from '../../../../../server/sign-on/service.ts';

/** Forgets which account at a provider signs somebody in. */
export const DELETE = endpoint(({ db, session, id }) =>
  forgetSignOn(db, session.actor, id(), id('provider')),
);
