import { z } from 'zod';
import { appointModerator } from '../../../../server/boards/settings.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

const schema = z.object({ personId: z.int().positive(), moderates: z.boolean() });

export const PUT = endpointWith(schema, ({ personId, moderates }, { db, session, id }) =>
  appointModerator(db, session.actor, id(), personId, moderates),
);
