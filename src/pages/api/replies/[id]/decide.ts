import { z } from 'zod';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { decideReply } from '../../../../server/replies/service.ts';

const schema = z.object({
  to: z.enum(['up', 'hidden', 'deleted']),
  note: z.string().trim().max(600, 'At most 600 characters').default(''),
});

/** A moderator's decision on a reply. */
export const POST = endpointWith(schema, ({ to, note }, { db, session, id }) =>
  decideReply(db, session.actor, id(), to, note),
);
