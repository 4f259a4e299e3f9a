import { endpoint } from '../../../server/http/endpoint.ts';
import { shelfDesk } from '../../../server/shelf/service.ts';

/** What the shelf asks of a coordinator. */
export const GET = endpoint(({ db, session }) => shelfDesk(db, session.actor));
