import { reachOf } from '../../../../server/boards/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** How many a post on a board reaches, and who they are. */
export const GET = endpoint(({ db, session, id }) => reachOf(db, session.actor, id()));
