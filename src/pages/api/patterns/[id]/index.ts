import { patternChangeSchema } from '../../../../core/patterns/patternSchema.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { changePattern, deletePattern } from '../../../../server/patterns/keeping.ts';
import { patternPage } from '../../../../server/patterns/service.ts';

export const GET = endpoint(({ db, session, id }) => patternPage(db, session.actor, id()));

export const PUT = endpointWith(patternChangeSchema, (input, { db, session, id }) =>
  changePattern(db, session.actor, id(), input),
);

export const DELETE = endpoint(({ db, session, id }) => deletePattern(db, session.actor, id()));
