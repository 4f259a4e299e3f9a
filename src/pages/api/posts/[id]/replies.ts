import { z } from 'zod';
import { replySchema } from '../../../../core/boards/board.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { earlierThan } from '../../../../server/posts/opening.ts';
import { writeReply } from '../../../../server/replies/service.ts';

const pageSchema = z.object({ before: z.coerce.number().int().positive() });

/** Replies from before one of them, in the order they were written. */
export const GET = endpoint(({ db, session, id, context }) =>
  earlierThan(db, session.actor, id(), pageSchema.parse(Object.fromEntries(context.url.searchParams)).before),
);

export const POST = endpointWith(replySchema, async (input, { db, session, id, idempotencyKey }) => ({
  id: await writeReply(db, session.actor, id(), input, await idempotencyKey()),
}));
