import { endpoint } from '../../../../server/http/endpoint.ts';
import { trustAddress } from '../../../../server/people/failing.ts';

export const DELETE = endpoint(({ db, session, id }) => trustAddress(db, session.actor, id()));
