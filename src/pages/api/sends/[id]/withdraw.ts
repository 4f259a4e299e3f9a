import { endpointWith } from '../../../../server/http/endpoint.ts';
import { withdraw, withdrawalSchema } from '../../../../server/sends/withdrawing.ts';

/** Withdraws what has gone, with a note for those who have it already. */
export const POST = endpointWith(withdrawalSchema, (input, { db, session, id }) =>
  withdraw(db, session.actor, id(), input),
);
