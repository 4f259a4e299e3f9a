import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { correctionReach, correctSchema, publishCorrection } from '../../../../server/sends/correcting.ts';

/** How many a correction would be told to, by each choice of whom to tell. */
export const GET = endpoint(({ db, session, id }) => correctionReach(db, session.actor, id()));

export const POST = endpointWith(correctSchema, async (input, { db, session, id, idempotencyKey }) =>
  publishCorrection(db, session.actor, id(), input, await idempotencyKey()),
);
