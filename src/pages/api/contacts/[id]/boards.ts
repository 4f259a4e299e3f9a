import { endpoint } from '../../../../server/http/endpoint.ts';
import { appContext } from '../../../../server/http/appContext.ts';
import { linksOfContact } from '../../../../server/contact-reading/service.ts';

/** The links by which a linked contact reads the boards they may. */
export const GET = endpoint(({ db, session, id }) => {
  const { CLEAR_BELL_URL: publicUrl, CLEAR_BELL_SECRET: secret } = appContext().settings;
  return linksOfContact(db, session.actor, id(), { publicUrl, secret });
});
