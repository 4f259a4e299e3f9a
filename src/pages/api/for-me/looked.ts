import { endpoint } from '../../../server/http/endpoint.ts';
import { noteLook } from '../../../server/inbox/service.ts';

/** Notes that the caller has looked at what is for them. */
export const POST = endpoint(({ db, session }) => noteLook(db, session.actor.id));
