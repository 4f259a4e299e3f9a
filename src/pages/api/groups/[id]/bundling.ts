import { z } from 'zod';
import { bundlingSchema } from '../../../../core/bundling/bundlingSchema.ts';
import { chooseBundlingForGroup } from '../../../../server/bundling/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const PUT = endpointWith(
  z.object({ bundling: bundlingSchema.nullable() }),
  ({ bundling }, { db, session, id }) => chooseBundlingForGroup(db, session.actor, id(), bundling),
);
