import { groupChangeSchema } from '../../../../core/groups/schemas.ts';
import { alterGroup, deleteGroup, groupPage } from '../../../../server/groups/making.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => groupPage(db, session.actor, id()));

export const PUT = endpointWith(groupChangeSchema, async (change, { db, session, id }) => {
  await alterGroup(db, session.actor, id(), change);
  return groupPage(db, session.actor, id());
});

export const DELETE = endpoint(({ db, session, id }) => deleteGroup(db, session.actor, id()));
