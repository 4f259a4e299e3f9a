import { attachment } from '../../../../../server/http/attachment.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';
import { takeoutFile } from '../../../../../server/organisation/takeouts.ts';

/** An archive that is ready. */
export const GET = endpoint(async ({ db, session, id }) => {
  const { name, bytes, body } = await takeoutFile(db, session.actor, id());
  const response = attachment(name, 'application/zip', body);
  response.headers.set('content-length', String(bytes));
  return response;
});
