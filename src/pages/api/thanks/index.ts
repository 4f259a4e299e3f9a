import { thanksSchema } from '../../../core/thanks/ribbon.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';
import { giveThanks } from '../../../server/thanks/service.ts';

/** Thanks people in public. */
export const POST = endpointWith(thanksSchema, async (input, { db, session, idempotencyKey }) =>
  giveThanks(db, session.actor, input, await idempotencyKey()),
);
