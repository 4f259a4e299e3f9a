import { takenChangesSchema } from '../../../../../core/patterns/patternSchema.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';
import { takeChanges } from '../../../../../server/patterns/offering.ts';

/** Takes changes of its pattern into a place. */
export const POST = endpointWith(takenChangesSchema, (input, { db, session, id }) =>
  takeChanges(db, session.actor, id(), input),
);
