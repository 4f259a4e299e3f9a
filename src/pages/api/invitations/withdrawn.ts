import { withdrawnSchema } from '../../../core/access/schemas.ts';
import { withdrawInvitations } from '../../../server/access/service.ts';
import { endpointWith } from '../../../server/http/endpoint.ts';

export const POST = endpointWith(withdrawnSchema, async ({ ids }, { db, session }) => ({
  withdrawn: await withdrawInvitations(db, session.actor, ids),
}));
