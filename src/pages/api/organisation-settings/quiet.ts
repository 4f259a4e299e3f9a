import { z } from 'zod';
import { quietSchema } from '../../../core/timing/quietSchema.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';
import { chooseQuietForAll } from '../../../server/people/service.ts';

export const PUT = endpointWith(z.object({ quiet: quietSchema.nullable() }), ({ quiet }, { db, session }) =>
  chooseQuietForAll(db, session.actor, quiet),
);
