import { endpoint } from '../../../../server/http/endpoint.ts';
import { reinstate } from '../../../../server/sends/withdrawing.ts';

/** Lets what was withdrawn hold again. */
export const POST = endpoint(({ db, session, id }) => reinstate(db, session.actor, id()));
