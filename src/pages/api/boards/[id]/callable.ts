import { groupsCallableOn } from '../../../../server/boards/callable.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** The groups somebody may call on on a board, with how many each calls. */
export const GET = endpoint(({ db, session, id }) => groupsCallableOn(db, session.actor, id()));
