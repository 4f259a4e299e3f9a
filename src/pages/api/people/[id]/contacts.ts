import { newContactSchema } from '../../../../core/people/person.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { addContact, listContacts } from '../../../../server/people/service.ts';

export const GET = endpoint(({ db, session, id }) => listContacts(db, session.actor, id()));

export const POST = endpointWith(newContactSchema, async (input, { db, session, id }) => {
  await addContact(db, session.actor, id(), input);
  return listContacts(db, session.actor, id());
});
