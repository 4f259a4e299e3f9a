import { sourceInputSchema } from '../../../core/automation/source.ts';
import { alterSource } from '../../../server/sources/service.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

export const PUT = endpointWith(sourceInputSchema, (input, { db, session, settings, id }) =>
  alterSource(db, session.actor, id(), input, settings.CLEAR_BELL_SECRET),
);
