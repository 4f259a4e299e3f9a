import { questionSchema } from '../../../../core/shelf/shelf.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { askShelf } from '../../../../server/shelf/service.ts';

/** Notes what helped, or hands the question to the coordinator. */
export const POST = endpointWith(questionSchema, async (input, { db, session, idempotencyKey }) =>
  askShelf(db, session.actor, input, await idempotencyKey()),
);
