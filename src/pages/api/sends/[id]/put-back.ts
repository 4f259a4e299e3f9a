import { endpoint } from '../../../../server/http/endpoint.ts';
import { putBack } from '../../../../server/sends/coming.ts';

/** Undoes the skipping of one of what recurs. */
export const POST = endpoint(({ db, session, id }) => putBack(db, session.actor, id()));
