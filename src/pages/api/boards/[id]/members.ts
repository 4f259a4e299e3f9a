import { z } from 'zod';
import { membersOfBoard } from '../../../../server/boards/service.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

const schema = z.object({
  q: z.string().max(80).default(''),
  name: z.string().max(200).optional(),
  id: z.coerce.number().int().positive().optional(),
});

/** Who belongs to a board, by name; after the one named by `name` and `id`, and with the letters `q` in their name. */
export const GET = endpoint(({ db, session, id, context }) => {
  const { q, name, id: after } = schema.parse(Object.fromEntries(context.url.searchParams));
  return membersOfBoard(
    db,
    session.actor,
    id(),
    q,
    name === undefined || after === undefined ? null : { name, id: after },
  );
});
