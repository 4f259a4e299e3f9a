import { hookOutSchema } from '../../../../core/gateways/hookOut.ts';
import { addHookOut, listHooksOut } from '../../../../server/gateways/outService.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => listHooksOut(db, session.actor));

/** Makes a way out; its secret is in the answer, and nowhere again. */
export const POST = endpointWith(hookOutSchema, (hook, { db, session, settings }) =>
  addHookOut(db, session.actor, hook, settings.CLEAR_BELL_SECRET),
);
