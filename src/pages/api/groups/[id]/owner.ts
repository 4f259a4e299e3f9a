import { z } from 'zod';
import { chooseOwner } from '../../../../server/groups/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const PUT = endpointWith(
  z.object({ personId: z.int().positive().nullable() }),
  ({ personId }, { db, session, id }) => chooseOwner(db, session.actor, id(), personId),
);
