import { z } from 'zod';
import { newPersonSchema } from '../../../core/people/person.ts';
import { addPerson, listPeople } from '../../../server/people/service.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';

const querySchema = z.object({
  search: z.string().max(100).default(''),
  afterName: z.string().max(200).optional(),
  afterId: z.coerce.number().int().positive().optional(),
});

export const GET = endpoint(({ db, session, context }) => {
  const { search, afterName, afterId } = querySchema.parse(Object.fromEntries(context.url.searchParams));
  const after = afterName !== undefined && afterId !== undefined ? { name: afterName, id: afterId } : null;
  return listPeople(db, session.actor, { search, after });
});

export const POST = endpointWith(newPersonSchema, async (input, { db, session }) => ({
  id: await addPerson(db, session.actor, input, session.zone),
}));
