import {
  checkInReplySchema,
  checkInThread,
  replyToCheckIn,
} from '../../../../../../server/asks/check-in/checkIns.ts';
import { endpointWith } from '../../../../../../server/http/endpoint.ts';

export const POST = endpointWith(checkInReplySchema, async (input, { db, session, id, idempotencyKey }) => {
  await replyToCheckIn(db, session.actor, id(), id('person'), input, await idempotencyKey());
  return checkInThread(db, session.actor, id(), id('person'));
});
