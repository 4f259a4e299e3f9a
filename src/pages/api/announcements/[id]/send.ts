import { endpointWith } from '../../../../server/http/endpoint.ts';
import { confirmSchema, confirmSend } from '../../../../server/sends/confirming.ts';

export const POST = endpointWith(confirmSchema, async (input, { db, session, id, idempotencyKey }) =>
  confirmSend(db, session.actor, id(), input, await idempotencyKey()),
);
