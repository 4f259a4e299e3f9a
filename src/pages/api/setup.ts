import { setUp, setupSchema } from '../../server/accounts/service.ts';
import { keepSession } from '../../server/http/cookie.ts';
import { openEndpointWith } from '../../server/http/endpoint.ts';
import { house } from '../../server/http/house.ts';

export const POST = openEndpointWith(setupSchema, async (input, context) => {
  keepSession(
    context.cookies,
    await setUp(house().db, input, context.request.headers.get('user-agent') ?? ''),
  );
});
