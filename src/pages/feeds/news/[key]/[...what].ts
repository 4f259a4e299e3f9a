import type { APIRoute } from 'astro';
import { stampedResponse } from '../../../../server/http/conditional.ts';
import { appContext } from '../../../../server/http/appContext.ts';
import { errorResponse } from '../../../../server/http/problemDetails.ts';
import { newsFeed } from '../../../../server/news/service.ts';

/** What came to somebody, what stands on a board, or the issues of a series, for a feed reader. The key in the address is the right to read it. */
export const GET: APIRoute = async ({ params, request, url }) => {
  try {
    const { db, settings } = appContext();
    const feed = await newsFeed(
      db,
      { key: params.key ?? '', what: params.what ?? '', before: url.searchParams.get('before') },
      settings.CLEAR_BELL_URL.replace(/\/$/, ''),
    );
    return stampedResponse(request, feed);
  } catch (error) {
    return errorResponse(error);
  }
};
