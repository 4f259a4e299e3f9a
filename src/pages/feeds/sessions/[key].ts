import type { APIRoute } from 'astro';
import { sessionsFeed } from '../../../server/calendar/feed.ts';
import { calendarResponse } from '../../../server/http/conditional.ts';
import { appContext } from '../../../server/http/appContext.ts';
import { errorResponse } from '../../../server/http/problemDetails.ts';

/** The sessions that are for somebody, for their calendar program. The key in the address is the right to read it. */
export const GET: APIRoute = async ({ params, request }) => {
  try {
    const { db, settings } = appContext();
    const key = (params.key ?? '').replace(/\.ics$/, '');
    return calendarResponse(request, await sessionsFeed(db, key, settings.CLEAR_BELL_URL.replace(/\/$/, '')));
  } catch (error) {
    return errorResponse(error);
  }
};
