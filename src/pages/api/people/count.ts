import { peopleAskedSchema } from '../../../core/people/together.ts';
import { countListedPeople } from '../../../server/people/service.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

/** How many the directory has of those asked for. */
export const GET = endpoint(async ({ db, session, context }) => ({
  count: await countListedPeople(
    db,
    session.actor,
    peopleAskedSchema.parse(Object.fromEntries(context.url.searchParams)),
  ),
}));
