import { z } from 'zod';
import { GROUPS_COUNTED } from '../../../core/groups/group.ts';
import { countGroups } from '../../../server/groups/making.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

const querySchema = z.object({
  ids: z
    .string()
    .max(1000)
    .regex(/^\d+(,\d+)*$/, 'Name groups by their numbers')
    .transform((text) => text.split(',', GROUPS_COUNTED).map(Number)),
});

/** How many are in some groups, by id. */
export const GET = endpoint(({ db, session, context }) =>
  countGroups(db, session.actor, querySchema.parse(Object.fromEntries(context.url.searchParams)).ids),
);
