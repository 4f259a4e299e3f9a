import { z } from 'zod';
import { chooseCalling } from '../../../../server/groups/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const PUT = endpointWith(z.object({ callable: z.boolean() }), ({ callable }, { db, session, id }) =>
  chooseCalling(db, session.actor, id(), callable),
);
