import { endpoint } from '../../../server/http/endpoint.ts';
import { readItem } from '../../../server/inbox/service.ts';
import { notFound } from '../../../server/problem.ts';
import { calendarOf } from '../../../server/sign-ups/service.ts';

/** The event of what came to this reader, for their own calendar. */
export const GET = endpoint(async ({ db, session, id, settings }) => {
  await readItem(db, session.actor.id, id());
  const calendar = await calendarOf(db, id(), new URL(settings.CLEAR_BELL_URL).hostname);
  if (calendar === null) throw notFound('event');
  return new Response(calendar, {
    headers: {
      'content-type': 'text/calendar; charset=utf-8',
      'content-disposition': 'attachment; filename="event.ics"',
    },
  });
});
