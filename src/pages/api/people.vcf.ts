import { endpoint } from '../../server/http/endpoint.ts';
import { peopleCards } from '../../server/people/exporting.ts';

export const GET = endpoint(
  async ({ db, session, settings }) =>
    new Response(await peopleCards(db, session.actor, settings.CLEAR_BELL_URL), {
      headers: {
        'content-type': 'text/vcard; charset=utf-8',
        'content-disposition': 'attachment; filename="people.vcf"',
        'cache-control': 'no-store',
      },
    }),
);
