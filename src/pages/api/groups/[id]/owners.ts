import { z } from 'zod';
import { appointOwner } from '../../../../server/groups/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const PUT = endpointWith(
  z.object({ personId: z.int().positive(), looksAfter: z.boolean() }),
  ({ personId, looksAfter }, { db, session, id }) =>
    appointOwner(db, session.actor, id(), personId, looksAfter),
);
