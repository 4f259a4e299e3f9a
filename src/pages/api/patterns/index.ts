import { newPatternSchema } from '../../../core/patterns/patternSchema.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { keepPattern } from '../../../server/patterns/keeping.ts';
import { listPatterns } from '../../../server/patterns/service.ts';

export const GET = endpoint(({ db, session }) => listPatterns(db, session.actor));

/** Keeps a place as a pattern. */
export const POST = endpointWith(newPatternSchema, (input, { db, session }) =>
  keepPattern(db, session.actor, input),
);
