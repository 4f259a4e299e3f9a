import { requestSchema } from '../../../../core/groups/joining.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { joinGroup, leaveGroup } from '../../../../server/groups/joining.ts';

/** Comes into a group, or asks to. */
export const POST = endpointWith(requestSchema, ({ words }, { db, session, id }) =>
  joinGroup(db, session.actor, id(), words),
);

/** Goes out of it, or no longer asks. */
export const DELETE = endpoint(({ db, session, id }) => leaveGroup(db, session.actor, id()));
