import { endpoint } from '../../../server/http/endpoint.ts';
import { welcomed } from '../../../server/inbox/service.ts';

/** Notes that the caller has read what is here, on their first day. */
export const PUT = endpoint(({ db, session }) => welcomed(db, session.actor.id));
