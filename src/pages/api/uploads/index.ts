import { z } from 'zod';
import { endpointWithFile } from '../../../server/http/endpoint.ts';
import { KEEP, MOST_UPLOAD, MOST_VIDEO } from '../../../server/uploads/service.ts';

const schema = z.object({
  as: z.enum(['image', 'file', 'video', 'captions']),
  name: z.string().max(300).default(''),
});

/** Takes the bytes of an image, of a file to be attached, of a video or of its captions. */
export const POST = endpointWithFile(
  (url) => (url.searchParams.get('as') === 'video' ? MOST_VIDEO : MOST_UPLOAD),
  (bytes, { db, session, context }) => {
    const { as, name } = schema.parse(Object.fromEntries(context.url.searchParams));
    return KEEP[as](db, session.actor, bytes, name);
  },
);
