import { decisionSchema } from '../../../../core/boards/board.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { decidePost } from '../../../../server/posts/moderating.ts';

/** A moderator's decision. */
export const POST = endpointWith(decisionSchema, (input, { db, session, id }) =>
  decidePost(db, session.actor, id(), input),
);
