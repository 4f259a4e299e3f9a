import { endpoint } from '../../../../server/http/endpoint.ts';
import { renewScimToken } from '../../../../server/scim/clients.ts';

/** Another token in the place of the one before; it is told this once. */
export const POST = endpoint(({ db, session, id }) => renewScimToken(db, session.actor, id()));
