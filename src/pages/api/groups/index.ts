import { newGroupSchema } from '../../../core/groups/schemas.ts';
import { listGroups, makeGroup } from '../../../server/groups/making.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => listGroups(db, session.actor));

export const POST = endpointWith(newGroupSchema, async (input, { db, session }) => ({
  id: await makeGroup(db, session.actor, input),
}));
