import { endpoint } from '../../../../server/http/endpoint.ts';
import { retry } from '../../../../server/sends/service.ts';

export const POST = endpoint(({ db, session, id }) => retry(db, session.actor, id()));
