import { z } from 'zod';
import { endpoint } from '../../../server/http/endpoint.ts';
import { listNotices } from '../../../server/notices/service.ts';

const schema = z.object({ before: z.coerce.number().int().positive().optional() });

/** What the caller was told, the latest first. */
export const GET = endpoint(({ db, session, context }) =>
  listNotices(
    db,
    session.actor.id,
    schema.parse(Object.fromEntries(context.url.searchParams)).before ?? null,
  ),
);
