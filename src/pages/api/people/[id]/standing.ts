import { z } from 'zod';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { changeStanding } from '../../../../server/people/service.ts';

export const PUT = endpointWith(z.object({ left: z.boolean() }), ({ left }, { db, session, id }) =>
  changeStanding(db, session.actor, id(), left),
);
