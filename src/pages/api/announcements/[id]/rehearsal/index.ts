import { z } from 'zod';
import { endpoint } from '../../../../../server/http/endpoint.ts';
import { rehearse } from '../../../../../server/rehearsal/service.ts';

const schema = z.object({
  within: z.coerce
    .number()
    .int('Whole hours')
    .min(1, 'At least an hour')
    .max(72, 'At most three days')
    .default(3),
  links: z.enum(['yes', 'no']).default('yes'),
});

export const GET = endpoint(({ db, session, id, context, settings }) => {
  const { within, links } = schema.parse(Object.fromEntries(context.url.searchParams));
  return rehearse(db, session, id(), within, {
    links: links === 'yes',
    publicUrl: settings.CLEAR_BELL_URL,
  });
});
