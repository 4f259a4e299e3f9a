import { revokeToken } from '../../../server/api/tokens.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

export const DELETE = endpoint(({ db, session, id }) => revokeToken(db, session.actor, id()));
