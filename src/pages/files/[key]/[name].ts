import type { APIRoute } from 'astro';
import { house } from '../../../server/http/house.ts';
import { errorResponse } from '../../../server/http/problemDetails.ts';
import { serveUpload } from '../../../server/uploads/service.ts';

/** An upload: an image to be shown, anything else to be saved. Nothing in it runs, whoever opens it. */
export const GET: APIRoute = async ({ params }) => {
  try {
    const { mime, bytes, name } = await serveUpload(house().db, params.key ?? '', params.name ?? '');
    return new Response(new Uint8Array(bytes), {
      headers: {
        'content-type': mime,
        'cache-control': 'public, max-age=31536000, immutable',
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
