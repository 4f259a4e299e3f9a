import { z } from 'zod';
import { signInToDemo } from '../../../server/accounts/service.ts';
import { keepSession } from '../../../server/http/cookie.ts';
import { openEndpointWith } from '../../../server/http/endpoint.ts';
import { house } from '../../../server/http/house.ts';

export const POST = openEndpointWith(
  z.object({ personId: z.int().positive() }),
  async ({ personId }, context) => {
    keepSession(context.cookies, await signInToDemo(house().db, personId));
  },
);
