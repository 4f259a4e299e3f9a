import { tryRunAgain } from '../../../../server/automations/runs.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const POST = endpoint(({ db, session, id }) => tryRunAgain(db, session.actor, id()));
