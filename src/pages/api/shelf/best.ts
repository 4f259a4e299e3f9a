import { endpoint } from '../../../server/http/endpoint.ts';
import { best } from '../../../server/shelf/service.ts';

/** The answers that fit a question best, as it is typed. */
export const GET = endpoint(({ db, context }) =>
  best(db, (context.url.searchParams.get('q') ?? '').slice(0, 300)),
);
