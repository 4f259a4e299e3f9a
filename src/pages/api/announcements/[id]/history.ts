import { history } from '../../../../server/history/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => history(db, session.actor, id()));
