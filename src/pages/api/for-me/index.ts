import { z } from 'zod';
import { endpoint } from '../../../server/http/endpoint.ts';
import { forMe } from '../../../server/inbox/service.ts';

const pageSchema = z.object({ wentMs: z.coerce.number().int(), id: z.coerce.number().int() });

/** What came to me, from before the one named by `wentMs` and `id`. */
export const GET = endpoint(({ db, session, context }) => {
  const query = Object.fromEntries(context.url.searchParams);
  return forMe(db, session.actor.id, 'id' in query ? pageSchema.parse(query) : null);
});
