import { callOffSchema } from '../../../../../core/calendar/session.ts';
import { callOffDate } from '../../../../../server/calendar/making.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

/** Calls one date off. */
export const POST = endpointWith(callOffSchema, ({ note }, { db, session, id }) =>
  callOffDate(db, session.actor, id(), { off: true, note }),
);

/** Has it take place after all. */
export const DELETE = endpoint(({ db, session, id }) =>
  callOffDate(db, session.actor, id(), { off: false, note: '' }),
);
