import { endpoint } from '../../../../server/http/endpoint.ts';
import { lookAtPlace } from '../../../../server/patterns/keeping.ts';

/** What of a place can be kept as a pattern. */
export const GET = endpoint(({ db, session, id }) => lookAtPlace(db, session.actor, id()));
