import { z } from 'zod';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { arrangePins } from '../../../../server/posts/pinning.ts';

const schema = z.object({ ids: z.array(z.int().positive()).max(60) });

/** The order of what is pinned, first to last. */
export const PUT = endpointWith(schema, ({ ids }, { db, session, id }) =>
  arrangePins(db, session.actor, id(), ids),
);
