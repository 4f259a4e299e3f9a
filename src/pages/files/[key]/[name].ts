import type { APIRoute } from 'astro';
import { house } from '../../../server/http/house.ts';
import { errorResponse } from '../../../server/http/problemDetails.ts';
import { serveUpload } from '../../../server/uploads/serving.ts';

/** A browser asks again after this long whether it may still have it, in seconds. */
const KEEP_S = 3_600;

/** An upload: an image to be shown, anything else to be saved. Nothing in it runs, whoever opens it. */
export const GET: APIRoute = async ({ params, url, locals }) => {
  try {
    const draft = url.searchParams.get('draft');
    const { mime, bytes, name, untilMs } = await serveUpload(
      house().db,
      {
        actor: locals.session?.actor ?? null,
        signed: url.searchParams.get('in'),
        draft: draft !== null && /^[1-9]\d{0,14}$/.test(draft) ? Number(draft) : null,
      },
      params.key ?? '',
      params.name ?? '',
    );
    const keep = Math.max(0, Math.min(KEEP_S, Math.floor((untilMs - Date.now()) / 1000)));
    return new Response(new Uint8Array(bytes), {
      headers: {
        'content-type': mime,
        'cache-control': `private, max-age=${keep}`,
        'content-security-policy': "default-src 'none'; sandbox",
        'cross-origin-resource-policy': 'cross-origin',
        'content-disposition':
          name === null
            ? 'inline'
            : `attachment; filename="file"; filename*=UTF-8''${encodeURIComponent(name)}`,
      },
    });
  } catch (error) {
    return errorResponse(error);
  }
};
