import { withdrawInvitation } from '../../../../server/access/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const DELETE = endpoint(({ db, session, id }) => withdrawInvitation(db, session.actor, id()));
