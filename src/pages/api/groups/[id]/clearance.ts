import { z } from 'zod';
import { demandClearance } from '../../../../server/groups/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const PUT = endpointWith(z.object({ needed: z.boolean() }), ({ needed }, { db, session, id }) =>
  demandClearance(db, session.actor, id(), needed),
);
