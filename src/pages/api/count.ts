import { z } from 'zod';
import { audienceSchema } from '../../core/audience/expression.ts';
import { requireDesk } from '../../server/accounts/require.ts';
import { endpointWith } from '../../server/http/endpoint.ts';
import { quickCount } from '../../server/sends/forecast.ts';

/** How many an audience holds, and the first of them. The whole forecast takes longer and follows. */
export const POST = endpointWith(
  z.object({ audience: audienceSchema.nullable() }),
  ({ audience }, { db, session }) => {
    requireDesk(session.actor);
    return quickCount(db, session.actor, audience);
  },
);
