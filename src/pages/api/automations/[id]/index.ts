import { deleteAutomation, saveDraft, savedSchema } from '../../../../server/automations/service.ts';
import { openAutomation } from '../../../../server/automations/page.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => openAutomation(db, session.actor, id()));

export const PUT = endpointWith(savedSchema, async (input, { db, session, id }) => ({
  revision: await saveDraft(db, session.actor, id(), input),
}));

export const DELETE = endpoint(({ db, session, id }) => deleteAutomation(db, session.actor, id()));
