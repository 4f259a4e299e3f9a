import { attachment } from '../../server/http/attachment.ts';
import { endpoint } from '../../server/http/endpoint.ts';
import { organisationArchive } from '../../server/organisation/takingOut.ts';

/** Everything of the organisation, as one archive. */
export const GET = endpoint(async ({ db, session, settings }) => {
  const { name, body } = await organisationArchive(db, session.actor, settings.CLEAR_BELL_URL);
  return attachment(name, 'application/zip', body);
});
