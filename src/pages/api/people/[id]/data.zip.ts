import { endpoint } from '../../../../server/http/endpoint.ts';
import { ownArchive } from '../../../../server/own-data/archive.ts';

/** All that is kept of somebody. */
export const GET = endpoint(async ({ db, session, id }) => {
  const { name, body } = await ownArchive(db, session.actor, id());
  return new Response(body, {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
      'cache-control': 'no-store',
    },
  });
});
