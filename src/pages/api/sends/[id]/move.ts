import { endpointWith } from '../../../../server/http/endpoint.ts';
import { move, moveSchema } from '../../../../server/sends/changing.ts';

export const POST = endpointWith(moveSchema, (input, { db, session, id }) =>
  move(db, session.actor, id(), input),
);
