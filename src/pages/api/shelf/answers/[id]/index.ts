import { answerSchema } from '../../../../../core/shelf/shelf.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';
import { changeAnswer, draftOfAnswer, removeAnswer } from '../../../../../server/shelf/service.ts';

/** An answer as it was written. */
export const GET = endpoint(({ db, session, id }) => draftOfAnswer(db, session.actor, id()));

export const PUT = endpointWith(answerSchema, (input, { db, session, id }) =>
  changeAnswer(db, session.actor, id(), input),
);

export const DELETE = endpoint(({ db, session, id }) => removeAnswer(db, session.actor, id()));
