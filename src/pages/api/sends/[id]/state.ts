import { z } from 'zod';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { changeState } from '../../../../server/sends/changing.ts';

const schema = z.object({ step: z.enum(['pause', 'resume', 'end']) });

export const POST = endpointWith(schema, ({ step }, { db, session, id }) =>
  changeState(db, session.actor, id(), step),
);
