import { createHash } from 'node:crypto';

/** The entity tag of a text (RFC 9110 section 8.8.3), weak: of two that say the same at another instant it is the same. */
const tagOf = (text: string): string =>
  `W/"${createHash('sha256')
    .update(text.replace(/^(DTSTAMP|LAST-MODIFIED):.*$/gm, ''))
    .digest('base64url')
    .slice(0, 22)}"`;

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
  const etag = tagOf(stamp);
  const headers = {
    etag,
    'cache-control': 'private, max-age=300',
    'content-type': type,
    ...(filename === undefined ? {} : { 'content-disposition': `attachment; filename="${filename}"` }),
  };
  const known = (request.headers.get('if-none-match') ?? '').split(',').map((tag) => tag.trim());
  return known.includes(etag) || known.includes('*')
    ? new Response(null, { status: 304, headers })
    : new Response(text(), { headers });
}
