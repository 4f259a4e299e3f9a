import { z } from 'zod';
import { instantSchema } from '../../../../core/timing/bounds.ts';
import { seeBoard } from '../../../../server/boards/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

const schema = z.object({ toMs: instantSchema });

/** Notes how far the caller has seen a board. */
export const PUT = endpointWith(schema, ({ toMs }, { db, session, id }) =>
  seeBoard(db, session.actor, id(), toMs),
);
