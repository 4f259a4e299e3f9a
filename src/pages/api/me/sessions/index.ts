import { endOtherOwnSessions, sessionLines } from '../../../../server/accounts/sessions.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => sessionLines(db, session));

/** Ends every session but the one that asks. */
export const DELETE = endpoint(({ db, session }) => endOtherOwnSessions(db, session));
