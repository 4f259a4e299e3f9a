import { sendTrial } from '../../../../../server/gateways/outService.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

/** Sends an event that says that it is a trial. */
export const POST = endpoint(({ db, session, id }) => sendTrial(db, session.actor, id()));
