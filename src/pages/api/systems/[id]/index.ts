import { endpoint } from '../../../../server/http/endpoint.ts';
import { removeScimClient } from '../../../../server/scim/clients.ts';

export const DELETE = endpoint(({ db, session, id }) => removeScimClient(db, session.actor, id()));
