import { callOffSchema } from '../../../../core/calendar/session.ts';
import { callOffSession } from '../../../../server/calendar/making.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

/** Calls a session off with all its dates ahead. */
export const POST = endpointWith(callOffSchema, ({ note }, { db, session, id }) =>
  callOffSession(db, session.actor, id(), note),
);
