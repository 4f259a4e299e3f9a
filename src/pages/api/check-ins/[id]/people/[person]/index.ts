import { checkInThread } from '../../../../../../server/asks/checkIns.ts';
import { endpoint } from '../../../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => checkInThread(db, session.actor, id(), id('person')));
