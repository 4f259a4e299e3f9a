import type { APIRoute } from 'astro';
import { receive } from '../../server/gateways/receiving.ts';
import { readBytes } from '../../server/http/body.ts';
import { appContext } from '../../server/http/appContext.ts';
import { errorResponse } from '../../server/http/problemDetails.ts';
import { Problem } from '../../server/problem.ts';

/** Most bytes of a message from outside, with its images in base64. */
const MOST = 2_000_000;

/** A way in: takes what an outside system posts, once it has proved who it is. */
export const POST: APIRoute = async ({ request, params }) => {
  const { db, attempts, settings } = appContext();
  try {
    const tooLarge = new Problem(413, 'That is more than two megabytes. Send images by their address.');
    const body = await readBytes(request, MOST, tooLarge);
    const received = await receive(db, params.key ?? '', request.headers, body, {
      attempts,
      asking: { secret: settings.CLEAR_BELL_SECRET, inside: settings.LOOKUP_ORIGINS },
      publicUrl: settings.CLEAR_BELL_URL,
    });
    return Response.json(received, {
      status: received.repeated ? 200 : 201,
      headers: {
        'cache-control': 'no-store',
        ...(received.address === null ? {} : { location: received.address }),
      },
    });
  } catch (error) {
    return errorResponse(error);
  }
};
