import { leaveSchema } from '../../../../core/people/leave.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { chooseLeave } from '../../../../server/people/leave.ts';

/** Notes when somebody is on leave. */
export const PUT = endpointWith(leaveSchema, (leave, { db, session, id }) =>
  chooseLeave(db, session.actor, id(), leave),
);

/** Ends a leave, or takes back one that has not begun. */
export const DELETE = endpoint(({ db, session, id }) => chooseLeave(db, session.actor, id(), null));
