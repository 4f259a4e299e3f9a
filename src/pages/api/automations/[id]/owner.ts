import { takeOver } from '../../../../server/automations/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** Whoever asks looks after it from now on. */
export const POST = endpoint(({ db, session, id }) => takeOver(db, session.actor, id()));
