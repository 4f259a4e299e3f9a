import { senderSchema } from '../../../core/senders/senderSchema.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { changeSender, deleteSender } from '../../../server/senders/service.ts';

export const PUT = endpointWith(senderSchema, (input, { db, session, id }) =>
  changeSender(db, session.actor, id(), input),
);

export const DELETE = endpoint(({ db, session, id }) => deleteSender(db, session.actor, id()));
