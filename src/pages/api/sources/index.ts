import { sourceInputSchema } from '../../../core/automation/source.ts';
import { addSource } from '../../../server/sources/service.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

export const POST = endpointWith(sourceInputSchema, async (input, { db, session, settings }) => ({
  id: await addSource(db, session.actor, input, settings.CLEAR_BELL_SECRET),
}));
