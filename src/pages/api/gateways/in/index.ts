import { hookInSchema } from '../../../../core/gateways/hookIn.ts';
import { addHookIn, listHooksIn } from '../../../../server/gateways/inService.ts';
import { endpoint, endpointWith } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(({ db, session }) => listHooksIn(db, session.actor));

/** Makes a way in; its secret is in the answer, and nowhere again. */
export const POST = endpointWith(hookInSchema, (hook, { db, session, settings }) =>
  addHookIn(db, session.actor, hook, settings.CLEAR_BELL_SECRET),
);
