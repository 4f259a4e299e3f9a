import { replySchema } from '../../../../core/boards/board.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { decideReply, draftOfReply, rewriteReply } from '../../../../server/replies/service.ts';

/** A reply of one's own as it was written. */
export const GET = endpoint(({ db, session, id }) => draftOfReply(db, session.actor, id()));

export const PUT = endpointWith(replySchema, (input, { db, session, id }) =>
  rewriteReply(db, session.actor, id(), input),
);

/** Takes back a reply of one's own. */
export const DELETE = endpoint(({ db, session, id }) => decideReply(db, session.actor, id(), 'deleted', ''));
