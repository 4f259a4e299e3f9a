import { identitySchema } from '../../../../../core/directory/identity.ts';
import { addIdentity, listIdentities } from '../../../../../server/identities/service.ts';
import { endpoint, endpointWith } from '../../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session, id }) => listIdentities(db, session.actor, id()));

export const POST = endpointWith(identitySchema, (input, { db, session, id }) =>
  addIdentity(db, session.actor, id(), input),
);
