import { newPostSchema } from '../../../../core/boards/board.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { writePost } from '../../../../server/posts/writing.ts';

/** Writes a post; it is up, or waits for a moderator. */
export const POST = endpointWith(newPostSchema, async (input, { db, session, id, idempotencyKey }) =>
  writePost(db, session.actor, id(), input, await idempotencyKey()),
);
