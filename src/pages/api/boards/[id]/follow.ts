import { z } from 'zod';
import { followBoard } from '../../../../server/boards/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

const schema = z.object({ choice: z.enum(['follow', 'mute']).nullable() });

export const PUT = endpointWith(schema, ({ choice }, { db, session, id }) =>
  followBoard(db, session.actor, id(), choice),
);
