import { copyAutomation } from '../../../../server/automations/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const POST = endpoint(async ({ db, session, id }) => ({
  id: await copyAutomation(db, session.actor, id()),
}));
