import { endpointWith } from '../../../../server/http/endpoint.ts';
import { correctSchema, publishCorrection } from '../../../../server/sends/service.ts';

export const POST = endpointWith(correctSchema, async (input, { db, session, id, idempotencyKey }) =>
  publishCorrection(db, session.actor, id(), input, await idempotencyKey()),
);
