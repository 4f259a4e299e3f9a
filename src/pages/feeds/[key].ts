import type { APIRoute } from 'astro';
import { plannedFeed } from '../../server/feed/service.ts';
import { appContext } from '../../server/http/appContext.ts';
import { errorResponse } from '../../server/http/problemDetails.ts';

/** What is planned, for a calendar program. The key in the address is the right to read it. */
export const GET: APIRoute = async ({ params }) => {
  try {
    const { db, settings } = appContext();
    const key = (params.key ?? '').replace(/\.ics$/, '');
    const feed = await plannedFeed(db, key, settings.CLEAR_BELL_URL.replace(/\/$/, ''));
    return new Response(feed, {
      headers: { 'content-type': 'text/calendar; charset=utf-8', 'cache-control': 'private, max-age=300' },
    });
  } catch (error) {
    return errorResponse(error);
  }
};
