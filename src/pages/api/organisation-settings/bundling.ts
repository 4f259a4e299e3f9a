import { z } from 'zod';
import { bundlingSchema } from '../../../core/bundling/bundlingSchema.ts';
import { chooseBundlingForAll } from '../../../server/bundling/service.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

export const PUT = endpointWith(z.object({ bundling: bundlingSchema }), ({ bundling }, { db, session }) =>
  chooseBundlingForAll(db, session.actor, bundling),
);
