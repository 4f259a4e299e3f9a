import type { APIRoute } from 'astro';
import parseRange from 'range-parser';
import { appContext } from '../../../server/http/appContext.ts';
import { errorResponse } from '../../../server/http/problemDetails.ts';
import { readPart, serveUpload } from '../../../server/uploads/serving.ts';

/** A browser asks again after this long whether it may still have it, in seconds. */
const KEEP_S = 3_600;

/** An upload: an image to be shown, anything else to be saved. Nothing in it runs, whoever opens it. */
export const GET: APIRoute = async ({ params, url, locals, request }) => {
  try {
    const idOf = (name: string): number | null => {
      const text = url.searchParams.get(name);
      return text !== null && /^[1-9]\d{0,14}$/.test(text) ? Number(text) : null;
    };
    const { mime, bytes, name, size, untilMs } = await serveUpload(
      appContext().db,
      {
        actor: locals.session?.actor ?? null,
        signed: url.searchParams.get('in'),
        draft: idOf('draft'),
        automation: idOf('automation'),
      },
      params.key ?? '',
      params.name ?? '',
    );
    const keep = Math.max(0, Math.min(KEEP_S, Math.floor((untilMs - Date.now()) / 1000)));
    const headers = {
      'content-type': mime,
      'cache-control': `private, max-age=${keep}`,
      'content-security-policy': "default-src 'none'; sandbox",
      'cross-origin-resource-policy': 'cross-origin',
      'content-disposition':
        name === null
          ? 'inline'
          : `attachment; filename="file"; filename*=UTF-8''${encodeURIComponent(name)}`,
    };
    if (size !== null) return await played(params.key ?? '', size, request.headers.get('range'), headers);
    return new Response(new Uint8Array(bytes), { headers });
  } catch (error) {
    return errorResponse(error);
  }
};

/** Most bytes of a video in one answer; who plays it asks for what follows. */
const MOST_AT_ONCE = 4_000_000;

/** A part of what is played (RFC 9110 section 14): the range asked for, or its beginning. */
async function played(
  key: string,
  size: number,
  wanted: string | null,
  headers: Record<string, string>,
): Promise<Response> {
  const ranges = wanted === null ? [] : parseRange(size, wanted);
  if (ranges === -1)
    return new Response(null, { status: 416, headers: { ...headers, 'content-range': `bytes */${size}` } });
  // What is asked for in several pieces, or in words that cannot be read, may be answered as a whole.
  const [range] = ranges === -2 || ranges.length > 1 ? [] : ranges;
  if (!range) {
    const whole = await Promise.all(
      Array.from({ length: Math.ceil(size / MOST_AT_ONCE) }, (_, i) =>
        readPart(appContext().db, key, i * MOST_AT_ONCE, Math.min(size, (i + 1) * MOST_AT_ONCE) - 1),
      ),
    );
    return new Response(new Blob(whole.map((part) => new Uint8Array(part))), {
      headers: { ...headers, 'accept-ranges': 'bytes', 'content-length': String(size) },
    });
  }
  const end = Math.min(range.end, range.start + MOST_AT_ONCE - 1);
  const part = await readPart(appContext().db, key, range.start, end);
  return new Response(new Uint8Array(part), {
    status: 206,
    headers: {
      ...headers,
      'accept-ranges': 'bytes',
      'content-range': `bytes ${range.start}-${end}/${size}`,
      'content-length': String(part.byteLength),
    },
  });
}
