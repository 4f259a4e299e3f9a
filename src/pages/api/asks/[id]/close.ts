import { closeByHand } from '../../../../server/asks/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const POST = endpoint(({ db, session, id }) => closeByHand(db, session.actor, id()));
