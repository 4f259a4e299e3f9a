import { z } from 'zod';
import { endpointWith } from '../../../../../server/http/endpoint.ts';
import { pointTo } from '../../../../../server/shelf/service.ts';

const schema = z.object({ answerId: z.int('Choose an answer').positive('Choose an answer') });

/** Answers a question with what is on the shelf already. */
export const POST = endpointWith(schema, ({ answerId }, { db, session, id }) =>
  pointTo(db, session.actor, id(), answerId),
);
