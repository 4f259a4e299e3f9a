import { groupKindSchema } from '../../../../core/groups/schemas.ts';
import { groupPage } from '../../../../server/groups/making.ts';
import { turnGroup } from '../../../../server/groups/turning.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';

export const PUT = endpointWith(groupKindSchema, async (to, { db, session, id }) => {
  await turnGroup(db, session.actor, id(), to);
  return groupPage(db, session.actor, id());
});
