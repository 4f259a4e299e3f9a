import { z } from 'zod';
import { newPersonSchema } from '../../../core/people/person.ts';
import { peopleAskedSchema, PEOPLE_ORDERS } from '../../../core/people/together.ts';
import { addPerson, listPeople } from '../../../server/people/service.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';

const querySchema = peopleAskedSchema.extend({
  order: z.enum(PEOPLE_ORDERS).default('name'),
  turned: z.enum(['yes', '']).default(''),
  from: z.coerce.number().int().min(0).max(10_000_000).default(0),
});

/** Rows of the directory, as many as are read at once, after `from` of them. */
export const GET = endpoint(({ db, session, context }) => {
  const { turned, ...asked } = querySchema.parse(Object.fromEntries(context.url.searchParams));
  return listPeople(db, session.actor, { ...asked, turned: turned === 'yes' });
});

export const POST = endpointWith(newPersonSchema, async (input, { db, session }) => ({
  id: await addPerson(db, session.actor, input, session.zone),
}));
