import { endpoint } from '../../../../server/http/endpoint.ts';
import { leaveUnchanged } from '../../../../server/sends/changing.ts';

export const POST = endpoint(({ db, session, id }) => leaveUnchanged(db, session.actor, id()));
