import { setUp, setupSchema } from '../../../server/accounts/service.ts';
import { comingOf, keepCameIn } from '../../../server/http/cookie.ts';
import { openEndpointWith } from '../../../server/http/endpoint.ts';
import { appContext } from '../../../server/http/appContext.ts';

/** Makes the organisation and its first coordinator; gives where to go on. */
export const POST = openEndpointWith(setupSchema, async (input, context) => ({
  to: keepCameIn(
    context.cookies,
    await setUp(appContext().db, input, comingOf(context.request)),
    '/first-steps',
  ),
}));
