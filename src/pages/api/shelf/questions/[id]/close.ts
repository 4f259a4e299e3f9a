import { closeSchema } from '../../../../../core/shelf/shelf.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';
import { closeQuestion } from '../../../../../server/shelf/service.ts';

/** Closes a question without an answer. */
export const POST = endpointWith(closeSchema, ({ reason }, { db, session, id }) =>
  closeQuestion(db, session.actor, id(), reason),
);
