import { z } from 'zod';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { followPost } from '../../../../server/posts/following.ts';

const schema = z.object({ choice: z.enum(['follow', 'mute']).nullable() });

export const PUT = endpointWith(schema, ({ choice }, { db, session, id }) =>
  followPost(db, session.actor, id(), choice),
);
