import { runNow } from '../../../../server/automations/runs.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const POST = endpoint(async ({ db, session, id, idempotencyKey }) =>
  runNow(db, session.actor, id(), await idempotencyKey()),
);
