import { endpoint } from '../../../server/http/endpoint.ts';
import { forgetAudience } from '../../../server/saved-audiences/service.ts';

export const DELETE = endpoint(({ db, session, id }) => forgetAudience(db, session.actor, id()));
