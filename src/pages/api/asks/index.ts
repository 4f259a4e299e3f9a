import { listAsks } from '../../../server/asks/service.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

/** Every ask the caller may see, the latest first. */
export const GET = endpoint(({ db, session }) => listAsks(db, session.actor));
