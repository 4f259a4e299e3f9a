import { replacingSchema } from '../../../../core/patterns/patternSchema.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { replacePattern } from '../../../../server/patterns/keeping.ts';

/** Takes a pattern anew from the place it was taken from. */
export const PUT = endpointWith(replacingSchema, (input, { db, session, id }) =>
  replacePattern(db, session.actor, id(), input),
);
