import { z } from 'zod';
import { identitySchema } from '../../../core/directory/identity.ts';
import { peopleLacking } from '../../../server/identities/bringing.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

const asked = z.object({
  system: identitySchema.shape.system,
  from: z.coerce.number().int().min(0).max(1_000_000).default(0),
});

/** Who has no identity in a system. */
export const GET = endpoint(({ db, session, context }) => {
  const { system, from } = asked.parse(Object.fromEntries(context.url.searchParams));
  return peopleLacking(db, session.actor, system, from);
});
