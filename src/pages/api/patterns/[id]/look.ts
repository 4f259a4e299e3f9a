import { placeLookSchema } from '../../../../core/patterns/patternSchema.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { planPlace } from '../../../../server/patterns/making.ts';

/** What would be made; nothing is. */
export const POST = endpointWith(placeLookSchema, ({ answers }, { db, session, settings, id }) =>
  planPlace(db, session.actor, id(), answers, settings.CLEAR_BELL_URL),
);
