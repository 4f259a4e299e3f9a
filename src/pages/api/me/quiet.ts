import { z } from 'zod';
import { quietSchema } from '../../../core/timing/quietSchema.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { chooseQuiet, quietHours } from '../../../server/people/service.ts';

export const GET = endpoint(({ db, session }) => quietHours(db, session.actor));

export const PUT = endpointWith(z.object({ quiet: quietSchema.nullable() }), ({ quiet }, { db, session }) =>
  chooseQuiet(db, session.actor, quiet),
);
