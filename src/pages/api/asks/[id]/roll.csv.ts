import { openRoll } from '../../../../server/asks/service.ts';
import { rollCsv } from '../../../../server/asks/csv.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';

export const GET = endpoint(async ({ db, session, id }) => {
  await openRoll(db, session.actor, id());
  return new Response(rollCsv(db, session, id()), {
    headers: {
      'content-type': 'text/csv; charset=utf-8; header=present',
      'content-disposition': `attachment; filename="roll-${id()}.csv"`,
      'cache-control': 'no-store',
    },
  });
});
