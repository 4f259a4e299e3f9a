import { z } from 'zod';
import { placeFor } from '../../../../server/boards/settings.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

const schema = z.object({ groupId: z.coerce.number().int().positive().optional() });

/** What giving a board to a group, or without one to everybody, would mean. */
export const GET = endpoint(({ db, session, id, context }) =>
  placeFor(
    db,
    session.actor,
    id(),
    schema.parse(Object.fromEntries(context.url.searchParams)).groupId ?? null,
  ),
);
