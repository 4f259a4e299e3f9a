import { senderSchema } from '../../../core/senders/senderSchema.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { listSenders, makeSender } from '../../../server/senders/service.ts';

export const GET = endpoint(({ db, session }) => listSenders(db, session.actor));

export const POST = endpointWith(senderSchema, (input, { db, session }) =>
  makeSender(db, session.actor, input),
);
