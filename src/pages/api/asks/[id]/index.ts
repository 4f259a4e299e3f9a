import { openRoll } from '../../../../server/asks/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => openRoll(db, session.actor, id(), session.zone));
