import { endpoint } from '../../../../server/http/endpoint.ts';
import { sayClosed, sayOpen } from '../../../../server/sharing/service.ts';

/** Says that one has the draft open; answers with the others who have. */
export const POST = endpoint(({ db, session, id }) => sayOpen(db, session.actor, id()));

export const DELETE = endpoint(({ db, session, id }) => sayClosed(db, session.actor, id()));
