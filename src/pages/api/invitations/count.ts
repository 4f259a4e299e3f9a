import { invitationSchema } from '../../../core/access/schemas.ts';
import { countInvited } from '../../../server/access/service.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

/** How many an invitation would reach. It changes nothing; the body says to whom, as for the invitation itself. */
export const POST = endpointWith(invitationSchema.pick({ to: true }), ({ to }, { db, session }) =>
  countInvited(db, session.actor, to),
);
