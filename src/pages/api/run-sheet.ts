import { endpoint } from '../../server/http/endpoint.ts';
import { deskToday } from '../../server/desk/service.ts';

export const GET = endpoint(({ db, session }) => deskToday(db, session));
