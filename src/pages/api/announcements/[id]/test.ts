import { endpoint } from '../../../../server/http/endpoint.ts';
import { sendTest } from '../../../../server/sends/service.ts';

export const POST = endpoint(async ({ db, session, id, idempotencyKey }) =>
  sendTest(db, session.actor, id(), await idempotencyKey()),
);
