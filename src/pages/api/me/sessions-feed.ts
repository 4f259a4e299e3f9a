import { newSessionsKey } from '../../../server/calendar/feed.ts';
import { endpoint } from '../../../server/http/endpoint.ts';

export const POST = endpoint(async ({ db, session, settings }) => ({
  url: `${settings.CLEAR_BELL_URL.replace(/\/$/, '')}/feeds/sessions/${await newSessionsKey(db, session.actor)}.ics`,
}));
