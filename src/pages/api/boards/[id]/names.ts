import { callableOn } from '../../../../server/boards/callable.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

/** Who can be called on by name on a board. */
export const GET = endpoint(({ db, session, id, context }) =>
  callableOn(db, session.actor, id(), (context.url.searchParams.get('q') ?? '').slice(0, 100)),
);
