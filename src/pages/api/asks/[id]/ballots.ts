import { z } from 'zod';
import { ballotsPage } from '../../../../server/asks/results.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

const afterSchema = z.object({ name: z.string().max(200), id: z.coerce.number().int().positive() });

/** Who chose what in a named poll, after the one named by `name` and `id`. */
export const GET = endpoint(({ db, session, id, context }) => {
  const query = Object.fromEntries(context.url.searchParams);
  return ballotsPage(db, session, id(), 'id' in query ? afterSchema.parse(query) : null);
});
