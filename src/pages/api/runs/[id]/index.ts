import { openRun } from '../../../../server/automations/runs.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => openRun(db, session.actor, id()));
