import { peopleAskedSchema } from '../../../core/people/together.ts';
import { idsOfListed } from '../../../server/people/service.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

/** The ids of those asked for, at most as many as something is done to at once. */
export const GET = endpoint(async ({ db, session, context }) => ({
  ids: await idsOfListed(
    db,
    session.actor,
    peopleAskedSchema.parse(Object.fromEntries(context.url.searchParams)),
  ),
}));
