import { answer } from '../../../../server/asks/answering.ts';
import { answerSchema } from '../../../../server/asks/kind.ts';
import { boxOf } from '../../../../server/asks/boxes.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

/** Answers, or changes an answer; gives what is asked as it then stands. */
export const POST = endpointWith(answerSchema, async (given, { db, settings, session, id }) => {
  const secret = settings.CLEAR_BELL_SECRET;
  const asked = await answer(db, secret, session.actor.id, id(), given, 'page');
  return boxOf(db, secret, { id: session.actor.id, zone: session.zone }, asked);
});
