import { z } from 'zod';
import { endpoint } from '../../../../server/http/endpoint.ts';
import { previewMail } from '../../../../server/preview/service.ts';

const schema = z.object({
  person: z.coerce.number().int().positive(),
  part: z.enum(['html', 'text']).default('html'),
});

/** A draft as the mail one reader would get. Shown in a frame of our own pages, where nothing in it can run. */
export const GET = endpoint(async ({ db, session, id, context }) => {
  const { person, part } = schema.parse(Object.fromEntries(context.url.searchParams));
  const mail = await previewMail(db, session.actor, id(), person);
  return new Response(mail[part], {
    headers: {
      'content-type': `text/${part === 'html' ? 'html' : 'plain'}; charset=utf-8`,
      'cache-control': 'no-store',
      'content-security-policy':
        "default-src 'none'; style-src 'unsafe-inline'; img-src 'self'; frame-ancestors 'self'; sandbox",
      'x-frame-options': 'SAMEORIGIN',
    },
  });
});
