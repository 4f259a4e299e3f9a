import { z } from 'zod';
import { endpointWith } from '../../../../../server/http/endpoint.ts';
import { decideRequest } from '../../../../../server/groups/joining.ts';

/** Lets somebody in who asks, or not. */
export const PUT = endpointWith(z.object({ letIn: z.boolean() }), ({ letIn }, { db, session, id }) =>
  decideRequest(db, session.actor, id(), id('person'), letIn),
);
