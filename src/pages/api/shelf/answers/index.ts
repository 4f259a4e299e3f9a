import { answerSchema } from '../../../../core/shelf/shelf.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { writeAnswer } from '../../../../server/shelf/service.ts';

export const POST = endpointWith(answerSchema, async (input, { db, session }) => ({
  id: await writeAnswer(db, session.actor, input),
}));
