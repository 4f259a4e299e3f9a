import { endOwnSession } from '../../../../server/accounts/sessions.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const DELETE = endpoint(({ db, session, id }) => endOwnSession(db, session, id()));
