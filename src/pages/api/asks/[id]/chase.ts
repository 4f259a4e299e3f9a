import { endpoint } from '../../../../server/http/endpoint.ts';
import { chaseNow } from '../../../../server/sends/chaseNow.ts';

/** Chases those who have not answered, now. */
export const POST = endpoint(async ({ db, session, id, idempotencyKey }) =>
  chaseNow(db, session.actor, id(), await idempotencyKey()),
);
