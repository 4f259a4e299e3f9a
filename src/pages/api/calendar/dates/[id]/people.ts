import { z } from 'zod';
import { STANDS } from '../../../../../core/audience/stands.ts';
import { participantPage } from '../../../../../server/calendar/reading.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

const query = z.object({
  stands: z.enum([...STANDS, 'silent', 'all']).default('all'),
  name: z.string().max(200).optional(),
  personId: z.coerce.number().int().positive().optional(),
});

/** Whom a date is for, and what each has said. */
export const GET = endpoint(({ db, session, id, context }) => {
  const { stands, name, personId } = query.parse(Object.fromEntries(context.url.searchParams));
  return participantPage(db, session.actor, id(), {
    stands,
    after: name === undefined || personId === undefined ? null : { name, personId },
  });
});
