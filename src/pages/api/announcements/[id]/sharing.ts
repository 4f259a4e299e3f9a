import { sharedSchema } from '../../../../core/desk/sharing.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';
import { share, sharing } from '../../../../server/sharing/service.ts';

export const GET = endpoint(({ db, session, id }) => sharing(db, session.actor, id()));

export const PUT = endpointWith(sharedSchema, (input, { db, session, id }) =>
  share(db, session.actor, id(), input),
);
