import { z } from 'zod';
import { instantInAddress } from '../../../../core/timing/bounds.ts';
import { openBoard } from '../../../../server/boards/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

const pageSchema = z.object({ postedMs: instantInAddress, id: z.coerce.number().int().positive() });

/** A board's posts, from before the one named by `postedMs` and `id`. */
export const GET = endpoint(({ db, session, id, context }) => {
  const query = Object.fromEntries(context.url.searchParams);
  return openBoard(db, session.actor, id(), 'id' in query ? pageSchema.parse(query) : null);
});
