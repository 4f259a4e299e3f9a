import { makeSender, senderSchema } from '../../server/automations/senders.ts';
import { endpointWith } from '../../server/http/endpoint.ts';

export const POST = endpointWith(senderSchema, (input, { db, session }) =>
  makeSender(db, session.actor, input),
);
