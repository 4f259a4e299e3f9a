import { z } from 'zod';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { passOn } from '../../../../server/posts/service.ts';

const schema = z.object({ boardId: z.int('Choose a board').positive('Choose a board') });

/** Passes a post on to another board. */
export const POST = endpointWith(schema, async ({ boardId }, { db, session, id, idempotencyKey }) =>
  passOn(db, session.actor, id(), boardId, await idempotencyKey()),
);
