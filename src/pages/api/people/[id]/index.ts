import { personChangeSchema } from '../../../../core/people/person.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { personForDesk } from '../../../../server/people/page.ts';
import { alterPerson } from '../../../../server/people/service.ts';

export const GET = endpoint(({ db, session, id }) => personForDesk(db, session.actor, id()));

export const PUT = endpointWith(personChangeSchema, (change, { db, session, id }) =>
  alterPerson(db, session.actor, id(), change),
);
