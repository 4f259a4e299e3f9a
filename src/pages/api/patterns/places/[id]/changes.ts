import { takenChangesSchema } from '../../../../../core/patterns/patternSchema.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';
import { takeChanges } from '../../../../../server/patterns/offering.ts';

/** Takes changes of its pattern into a place. */
export const POST = endpointWith(takenChangesSchema, (input, { db, session, settings, id }) =>
  takeChanges(db, session.actor, id(), input, settings.CLEAR_BELL_URL),
);
