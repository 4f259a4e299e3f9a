import { signIn, signInSchema } from '../../../server/accounts/service.ts';
import { keepSession } from '../../../server/http/cookie.ts';
import { openEndpointWith } from '../../../server/http/endpoint.ts';
import { house } from '../../../server/http/house.ts';

export const POST = openEndpointWith(signInSchema, async (input, context) => {
  const { db, signInLimit } = house();
  keepSession(context.cookies, await signIn(db, signInLimit, input, context.clientAddress));
});
