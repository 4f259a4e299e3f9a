import { doorSchema } from '../../../../core/groups/joining.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { chooseDoor, groupDoor } from '../../../../server/groups/joining.ts';

export const GET = endpoint(({ db, session, id }) => groupDoor(db, session.actor, id()));

/** Sets how a fixed group takes people in. */
export const PUT = endpointWith(doorSchema, (door, { db, session, id }) =>
  chooseDoor(db, session.actor, id(), door),
);
