import { anewSchema } from '../../../../core/patterns/patternSchema.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { keepAnew } from '../../../../server/patterns/keeping.ts';

/** Takes a pattern anew from the place it was taken from. */
export const PUT = endpointWith(anewSchema, (input, { db, session, id }) =>
  keepAnew(db, session.actor, id(), input),
);
