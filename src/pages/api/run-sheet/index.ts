import { deskToday } from '../../../server/desk/service.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

/** The desk at a glance. */
export const GET = endpoint(({ db, session }) => deskToday(db, session));
