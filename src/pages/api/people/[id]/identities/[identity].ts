import { removeIdentity } from '../../../../../server/identities/service.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

export const DELETE = endpoint(({ db, session, id }) =>
  removeIdentity(db, session.actor, id(), id('identity')),
);
