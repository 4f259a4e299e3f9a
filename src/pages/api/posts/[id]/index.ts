import { newPostSchema } from '../../../../core/boards/board.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { rewritePost, takeDownOwn } from '../../../../server/posts/writing.ts';
import { openPost } from '../../../../server/posts/opening.ts';

export const GET = endpoint(({ db, session, id }) => openPost(db, session.actor, id()));

/** Puts another text in a post of one's own. */
export const PUT = endpointWith(newPostSchema, (input, { db, session, id }) =>
  rewritePost(db, session.actor, id(), input),
);

/** Takes back a post of one's own. */
export const DELETE = endpoint(({ db, session, id }) => takeDownOwn(db, session.actor, id()));
