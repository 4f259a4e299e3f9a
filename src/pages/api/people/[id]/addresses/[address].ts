import { endpoint } from '../../../../../server/http/endpoint.ts';
import { preferAddress, removeAddress } from '../../../../../server/people/addresses.ts';

/** Lets mail go there from now on. */
export const PUT = endpoint(({ db, session, id }) => preferAddress(db, session.actor, id(), id('address')));

export const DELETE = endpoint(({ db, session, id }) =>
  removeAddress(db, session.actor, id(), id('address')),
);
