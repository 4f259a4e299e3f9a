import { z } from 'zod';
import { checkInThread } from '../../../../../../server/asks/check-in/checkIns.ts';
import { endpoint } from '../../../../../../server/http/endpoint.ts';

const schema = z.object({ before: z.coerce.number().int().positive().optional() });

/** What one person said, with the latest replies, or those from before one of them. */
export const GET = endpoint(({ db, session, id, context }) =>
  checkInThread(
    db,
    session.actor,
    id(),
    id('person'),
    schema.parse(Object.fromEntries(context.url.searchParams)).before ?? null,
  ),
);
