import { z } from 'zod';
import { pin } from '../../../../server/boards/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const PUT = endpointWith(z.object({ pinned: z.boolean() }), ({ pinned }, { db, session, id }) =>
  pin(db, session.actor, id(), pinned),
);
