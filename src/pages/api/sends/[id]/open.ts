import { z } from 'zod';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { openForChange } from '../../../../server/sends/changing.ts';

const schema = z.object({ to: z.enum(['change', 'correct']) });

export const POST = endpointWith(schema, ({ to }, { db, session, id }) =>
  openForChange(db, session.actor, id(), to),
);
