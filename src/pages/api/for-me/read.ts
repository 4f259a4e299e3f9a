import { endpoint } from '../../../server/http/endpoint.ts';
import { readAll } from '../../../server/inbox/service.ts';

/** Notes everything that is for the caller as read. */
export const PUT = endpoint(({ db, session }) => readAll(db, session.actor));
