import { addressSchema } from '../../../../../core/people/person.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';
import { addAddress, listAddresses } from '../../../../../server/people/addresses.ts';

export const GET = endpoint(({ db, session, id }) => listAddresses(db, session.actor, id()));

export const POST = endpointWith(addressSchema, ({ mail }, { db, session, id }) =>
  addAddress(db, session.actor, id(), mail),
);
