import { endpoint } from '../../../../../server/http/endpoint.ts';
import { publishToAll } from '../../../../../server/shelf/service.ts';

/** Publishes an answer to all. */
export const POST = endpoint(({ db, session, id }) => publishToAll(db, session.actor, id()));
