import { endpoint } from '../../server/http/endpoint.ts';
import { authorsNamed } from '../../server/search/service.ts';

/** People whose name holds some letters and who wrote something that can be found. */
export const GET = endpoint(({ db, session, context }) =>
  authorsNamed(db, session.actor, (context.url.searchParams.get('q') ?? '').slice(0, 100)),
);
