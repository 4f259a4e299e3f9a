import { z } from 'zod';
import { endpointWithFile } from '../../server/http/endpoint.ts';
import { keepFile, keepImage, MOST_UPLOAD } from '../../server/uploads/service.ts';

const schema = z.object({ as: z.enum(['image', 'file']), name: z.string().max(300).default('') });

/** Takes the bytes of an image or of a file to be attached. */
export const POST = endpointWithFile(MOST_UPLOAD, (bytes, { db, session, context }) => {
  const { as, name } = schema.parse(Object.fromEntries(context.url.searchParams));
  return as === 'image'
    ? keepImage(db, session.actor, bytes, name)
    : keepFile(db, session.actor, bytes, name);
});
