import { listAutomations, makeAutomation, newAutomationSchema } from '../../../server/automations/service.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => listAutomations(db, session.actor));

export const POST = endpointWith(newAutomationSchema, async (input, { db, session }) => ({
  id: await makeAutomation(db, session.actor, input),
}));
