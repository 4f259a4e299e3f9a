import { invitationSchema } from '../../../core/access/schemas.ts';
import { invite } from '../../../server/access/service.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

export const POST = endpointWith(invitationSchema, (input, { db, session }) =>
  invite(db, session.actor, input),
);
