import { endpointWith } from '../../../../server/http/endpoint.ts';
import { correctSchema, publishCorrection } from '../../../../server/sends/service.ts';

export const POST = endpointWith(correctSchema, (input, { db, session, id, idempotencyKey }) =>
  publishCorrection(db, session.actor, id(), input, idempotencyKey()),
);
