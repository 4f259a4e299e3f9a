import { reachSchema } from '../../../../core/people/person.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { changeReach } from '../../../../server/people/service.ts';

export const PUT = endpointWith(reachSchema, ({ groupIds }, { db, session, id }) =>
  changeReach(db, session.actor, id(), groupIds),
);
