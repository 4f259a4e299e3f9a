import { personChangeSchema } from '../../../../core/people/person.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { alterPerson } from '../../../../server/people/service.ts';

export const PUT = endpointWith(personChangeSchema, (change, { db, session, id }) =>
  alterPerson(db, session.actor, id(), change),
);
