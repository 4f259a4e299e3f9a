import { ownDetailsSchema } from '../../../core/people/person.ts';
import { endpoint, endpointWith } from '../../../server/http/endpoint.ts';
import { ownDetails, sayOwnDetails } from '../../../server/people/own.ts';

export const GET = endpoint(({ db, session }) => ownDetails(db, session.actor));

export const PUT = endpointWith(ownDetailsSchema, (given, { db, session }) =>
  sayOwnDetails(db, session.actor, given),
);
