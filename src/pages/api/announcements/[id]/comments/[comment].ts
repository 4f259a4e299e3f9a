import { z } from 'zod';
import { setCommentSettled } from '../../../../../server/comments/service.ts';
import { endpointWith } from '../../../../../server/http/endpoint.ts';

export const PUT = endpointWith(z.object({ settled: z.boolean() }), ({ settled }, { db, session, id }) =>
  setCommentSettled(db, session.actor, id(), id('comment'), settled),
);
