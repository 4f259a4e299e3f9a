import { searchSchema } from '../../core/search/searchSchema.ts';
import { endpoint } from '../../server/http/endpoint.ts';
import { search } from '../../server/search/service.ts';

/** What the caller may see that holds the words. */
export const GET = endpoint(({ db, session, context }) =>
  search(
    db,
    session.actor,
    session.zone,
    searchSchema.parse(Object.fromEntries([...context.url.searchParams].filter(([, value]) => value !== ''))),
  ),
);
