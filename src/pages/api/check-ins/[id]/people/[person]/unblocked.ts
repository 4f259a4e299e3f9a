import { unblockCheckIn } from '../../../../../../server/asks/check-in/checkIns.ts';
import { endpoint } from '../../../../../../server/http/endpoint.ts';

export const POST = endpoint(({ db, session, id }) => unblockCheckIn(db, session.actor, id(), id('person')));
