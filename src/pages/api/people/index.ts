import { z } from 'zod';
import { newPersonSchema } from '../../../core/people/person.ts';
import { audienceTextSchema, PEOPLE_ORDERS, SHOWN_PEOPLE } from '../../../core/people/together.ts';
import { addPerson, listPeople } from '../../../server/people/service.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';

const querySchema = z.object({
  search: z.string().max(100).default(''),
  shown: z.enum(SHOWN_PEOPLE).default('all'),
  order: z.enum(PEOPLE_ORDERS).default('name'),
  audience: audienceTextSchema.optional(),
  afterKey: z.string().max(200).optional(),
  afterId: z.coerce.number().int().positive().optional(),
});

export const GET = endpoint(({ db, session, context }) => {
  const { afterKey, afterId, audience, ...asked } = querySchema.parse(
    Object.fromEntries(context.url.searchParams),
  );
  if (asked.order === 'joined' && afterKey !== undefined) z.iso.date().parse(afterKey);
  return listPeople(db, session.actor, {
    ...asked,
    audience: audience ?? null,
    after: afterKey !== undefined && afterId !== undefined ? { key: afterKey, id: afterId } : null,
  });
});

export const POST = endpointWith(newPersonSchema, async (input, { db, session }) => ({
  id: await addPerson(db, session.actor, input, session.zone),
}));
