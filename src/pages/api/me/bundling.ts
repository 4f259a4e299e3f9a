import { z } from 'zod';
import { bundlingSchema } from '../../../core/bundling/bundlingSchema.ts';
import { bundling, chooseBundling } from '../../../server/bundling/service.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => bundling(db, session.actor));

export const PUT = endpointWith(
  z.object({ bundling: bundlingSchema.nullable() }),
  ({ bundling: chosen }, { db, session }) => chooseBundling(db, session.actor, chosen),
);
