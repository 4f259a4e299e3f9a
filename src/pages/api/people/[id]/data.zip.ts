import { attachment } from '../../../../server/http/attachment.ts';
import { endpoint } from '../../../../server/http/endpoint.ts';
import { ownArchive } from '../../../../server/own-data/archive.ts';

/** All that is kept of somebody. */
export const GET = endpoint(async ({ db, session, id }) => {
  const { name, body } = await ownArchive(db, session.actor, id());
  return attachment(name, 'application/zip', body);
});
