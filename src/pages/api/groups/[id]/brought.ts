import { broughtSchema } from '../../../../core/groups/joining.ts';
import { endpointWith } from '../../../../server/http/endpoint.ts';
import { bringIn } from '../../../../server/groups/joining.ts';

/** Brings somebody in by their mail address. */
export const POST = endpointWith(broughtSchema, (input, { db, session, id }) =>
  bringIn(db, session.actor, id(), input),
);
