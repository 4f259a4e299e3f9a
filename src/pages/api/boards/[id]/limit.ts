import { z } from 'zod';
import { limitSections } from '../../../../server/boards/service.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

const schema = z.object({
  limit: z.int('A whole number').min(1, 'At least one section').max(60, 'At most sixty sections'),
});

export const PUT = endpointWith(schema, ({ limit }, { db, session, id }) =>
  limitSections(db, session.actor, id(), limit),
);
