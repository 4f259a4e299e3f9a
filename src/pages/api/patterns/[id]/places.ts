import { newPlaceSchema } from '../../../../core/patterns/patternSchema.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { makePlace } from '../../../../server/patterns/making.ts';

/** Makes a place from a pattern. */
export const POST = endpointWith(newPlaceSchema, (input, { db, session, settings, id }) =>
  makePlace(db, session.actor, id(), input, settings.CLEAR_BELL_URL),
);
