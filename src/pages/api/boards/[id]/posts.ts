import { memberPostSchema, writePost } from '../../../../server/boards/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const POST = endpointWith(memberPostSchema, async (input, { db, session, id, idempotencyKey }) => ({
  id: await writePost(db, session.actor, id(), input, idempotencyKey()),
}));
