import { z } from 'zod';
import { arrangeBoards } from '../../../server/boards/settings.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

const schema = z.object({ ids: z.array(z.int().positive()).max(2000) });

export const PUT = endpointWith(schema, ({ ids }, { db, session }) => arrangeBoards(db, session.actor, ids));
