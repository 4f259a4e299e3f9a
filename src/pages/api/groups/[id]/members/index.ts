import { z } from 'zod';
import { addedSchema } from '../../../../../core/groups/schemas.ts';
import { addMembers, groupMembers } from '../../../../../server/groups/making.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

const querySchema = z.object({
  afterName: z.string().max(200).optional(),
  afterId: z.coerce.number().int().positive().optional(),
});

export const GET = endpoint(({ db, session, context, id }) => {
  const { afterName, afterId } = querySchema.parse(Object.fromEntries(context.url.searchParams));
  const after = afterName !== undefined && afterId !== undefined ? { name: afterName, id: afterId } : null;
  return groupMembers(db, session.actor, id(), after);
});

export const POST = endpointWith(addedSchema, (input, { db, session, id }) =>
  addMembers(db, session.actor, id(), input),
);
