import { dateFile } from '../../../../../server/calendar/feed.ts';
import { calendarResponse } from '../../../../../server/http/conditional.ts';
import { endpoint } from '../../../../../server/http/endpoint.ts';

/** One date, for its reader's own calendar. */
export const GET = endpoint(async ({ db, session, id, settings, context }) =>
  calendarResponse(
    context.request,
    await dateFile(db, session.actor, id(), settings.CLEAR_BELL_URL.replace(/\/$/, '')),
    'session.ics',
  ),
);
