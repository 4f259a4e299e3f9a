import { endpoint } from '../../../server/http/endpoint.ts';
import { newNewsKey } from '../../../server/news/service.ts';

export const POST = endpoint(({ db, session, settings }) =>
  newNewsKey(db, session.actor, settings.CLEAR_BELL_URL.replace(/\/$/, '')),
);
