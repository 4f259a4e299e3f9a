import { after } from '../../../../server/after/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => after(db, session.actor, id()));
