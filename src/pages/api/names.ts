import { findByName } from '../../server/groups/service.ts';
import { endpoint } from '../../server/http/endpoint.ts';

/** People and groups whose name holds the letters asked for. */
export const GET = endpoint(({ db, session, context }) =>
  findByName(db, session.actor, (context.url.searchParams.get('q') ?? '').slice(0, 100)),
);
