import { newFeedKey } from '../../../server/feed/service.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

export const POST = endpoint(async ({ db, session, settings }) => ({
  url: `${settings.CLEAR_BELL_URL.replace(/\/$/, '')}/feeds/${await newFeedKey(db, session.actor)}.ics`,
}));
