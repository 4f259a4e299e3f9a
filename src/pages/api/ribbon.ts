import { ribbon } from '../../server/desk/service.ts';
import { endpoint } from '../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => ribbon(db, session));
