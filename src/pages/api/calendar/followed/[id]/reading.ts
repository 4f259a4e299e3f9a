import { readNow } from '../../../../../server/followed/service.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

/** Reads it now. */
export const POST = endpoint(({ db, session, id, settings }) =>
  readNow(db, session.actor, id(), settings.LOOKUP_ORIGINS),
);
