import { endpoint } from '../../../server/http/endpoint.ts';
import { hoursThatWork } from '../../../server/told/service.ts';

/** At which hour of their own day people open soon what comes to them. */
export const GET = endpoint(({ db, session }) => hoursThatWork(db, session));
