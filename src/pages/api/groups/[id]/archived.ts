import { z } from 'zod';
import { archiveGroup } from '../../../../server/groups/archiving.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const PUT = endpointWith(z.object({ archived: z.boolean() }), ({ archived }, { db, session, id }) =>
  archiveGroup(db, session.actor, id(), archived),
);
