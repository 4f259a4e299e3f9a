import { passOnSchema } from '../../../../core/boards/board.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { passOn } from '../../../../server/posts/passingOn.ts';

/** Passes a post on to another board, quoted under one's own words. */
export const POST = endpointWith(passOnSchema, async (input, { db, session, id, idempotencyKey }) =>
  passOn(db, session.actor, id(), input, await idempotencyKey()),
);
