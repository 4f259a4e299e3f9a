import { endpoint } from '../../../server/http/endpoint.ts';
import { announcementsNamed } from '../../../server/shelf/linking.ts';

/** What went out, found by its title, for linking an answer to it. */
export const GET = endpoint(({ db, session, context }) =>
  announcementsNamed(db, session, (context.url.searchParams.get('q') ?? '').slice(0, 100)),
);
