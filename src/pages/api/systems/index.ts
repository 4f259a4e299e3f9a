import { scimClientSchema } from '../../../core/people/scim.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { addScimClient, listScimClients } from '../../../server/scim/clients.ts';

export const GET = endpoint(({ db, session }) => listScimClients(db, session.actor));

/** Lets a system keep people up to date; its token is told this once. */
export const POST = endpointWith(scimClientSchema, (input, { db, session }) =>
  addScimClient(db, session.actor, input),
);
