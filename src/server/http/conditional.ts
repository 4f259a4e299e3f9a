import etag from 'etag';
import fresh from 'fresh';

/** The entity tag of a text (RFC 9110 section 8.8.3), weak: of two that say the same at another instant it is the same. */
const tagOf = (text: string): string =>
  etag(text.replace(/^(DTSTAMP|LAST-MODIFIED):.*$/gm, ''), { weak: true });

/** Whether whoever asks has already what has this entity tag, and has not asked for it anew (RFC 9110 section 13.1.2). */
export const hasAlready = (request: Request, tag: string): boolean =>
  fresh(Object.fromEntries(request.headers), { etag: tag });

/** An iCalendar text as an answer; 304 without it where whoever asks has the same already. */
export const calendarResponse = (request: Request, text: string, filename?: string): Response =>
  textResponse(request, text, 'text/calendar; charset=utf-8', filename);

/** A text as an answer; 304 without it where whoever asks has the same already (RFC 9110 section 13.1.2). */
export function textResponse(request: Request, text: string, type: string, filename?: string): Response {
  return stampedResponse(request, { stamp: text, text: () => text, type }, filename);
}

/**
 * A text as an answer, written only where whoever asks has not got it already.
 *
 * @param stamp what the text depends on: where that is the same, so is the text
 */
export function stampedResponse(
  request: Request,
  { stamp, text, type }: { stamp: string; text: () => string; type: string },
  filename?: string,
): Response {
  const tag = tagOf(stamp);
  const headers = {
    etag: tag,
    'cache-control': 'private, max-age=300',
    'content-type': type,
    ...(filename === undefined ? {} : { 'content-disposition': `attachment; filename="${filename}"` }),
  };
  return hasAlready(request, tag)
    ? new Response(null, { status: 304, headers })
    : new Response(text(), { headers });
}

/**
 * Whether an answer is the data of a page, which a browser may keep as long as it asks each time whether it still holds. Pages
 * themselves tell the time at which they were made, so that no two are the same.
 */
export const isKeptToAskAgain = (request: Request, response: Response): boolean =>
  request.method === 'GET' &&
  response.status === 200 &&
  !response.headers.has('etag') &&
  !response.headers.has('content-disposition') &&
  /^application\/json\b/.test(response.headers.get('content-type') ?? '');

/** An answer with its entity tag; 304 without its text where the browser has the same already. */
export async function tagged(request: Request, response: Response): Promise<Response> {
  const body = Buffer.from(await response.arrayBuffer());
  const headers = new Headers(response.headers);
  const tag = etag(body, { weak: true });
  headers.set('etag', tag);
  headers.set('cache-control', 'private, no-cache');
  if (!hasAlready(request, tag)) return new Response(body, { status: response.status, headers });
  headers.delete('content-type');
  return new Response(null, { status: 304, headers });
}

/** A header that has a browser let go of what it keeps of this application (Clear Site Data, W3C). */
export const FORGET_KEPT = ['clear-site-data', '"cache"'] as const;
