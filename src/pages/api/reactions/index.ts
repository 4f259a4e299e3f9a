import { z } from 'zod';
import { REACTIONS } from '../../../core/boards/reaction.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';
import { react } from '../../../server/reactions/service.ts';

const schema = z.object({
  subject: z.enum(['post', 'reply', 'occurrence']),
  id: z.int().positive(),
  kind: z.enum(REACTIONS),
  given: z.boolean(),
});

/** Gives or takes back a reaction. */
export const PUT = endpointWith(schema, ({ subject, id, kind, given }, { db, session }) =>
  react(db, session.actor, { subject, id }, kind, given),
);
