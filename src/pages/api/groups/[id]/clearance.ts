import { z } from 'zod';
import { requireClearance } from '../../../../server/groups/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const PUT = endpointWith(z.object({ needed: z.boolean() }), ({ needed }, { db, session, id }) =>
  requireClearance(db, session.actor, id(), needed),
);
