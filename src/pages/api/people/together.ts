import { togetherSchema } from '../../../core/people/together.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';
import { doTogether } from '../../../server/people/together.ts';

export const POST = endpointWith(togetherSchema, (input, { db, session }) =>
  doTogether(db, session.actor, input),
);
