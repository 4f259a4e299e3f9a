import { z } from 'zod';
import { KEEP, MOST_UPLOAD, MOST_VIDEO } from '../../uploads/service.ts';
import { Problem } from '../../problem.ts';
import { bytesWords } from '../../../core/words.ts';
import { operationsAbout } from '../operation.ts';

const uploads = operationsAbout('Uploads');

/** Base64 takes four letters for three bytes; the rest of the body is short. */
const MOST_BODY = Math.ceil((MOST_VIDEO * 4) / 3) + 10_000;

export const UPLOADS = [
  uploads('POST /uploads', {
    id: 'keepUpload',
    scope: 'boards:write',
    summary: 'Keep an image, a file to attach, a video or its captions, to be named in what is written',
    description:
      `Images (JPEG, PNG, WebP, AVIF, GIF) are written anew. A file has at most ${bytesWords(MOST_UPLOAD)}, a video ${bytesWords(MOST_VIDEO)}. ` +
      'What nothing names within a day is deleted.',
    body: z
      .object({
        as: z.enum(['image', 'file', 'video', 'captions']),
        name: z.string().min(1, 'Give it the name of its file').max(300),
        data: z.base64('Base64 (RFC 4648) of its bytes').min(1, 'There is nothing in it'),
      })
      .strict(),
    mostBytes: MOST_BODY,
    answer: z.object({
      key: z.string(),
      name: z.string().optional(),
      mime: z.string().optional(),
      bytes: z.int().optional(),
      width: z.int().optional(),
      height: z.int().optional(),
    }),
    makes: true,
    example: { as: 'file', name: 'list.csv', data: 'bmFtZQ==' },
    run: async ({ db, actor, body: { as, name, data } }) => {
      const bytes = Buffer.from(data, 'base64');
      if (as !== 'video' && bytes.byteLength > MOST_UPLOAD) {
        const detail = `The file has more than ${bytesWords(MOST_UPLOAD)}. Make it smaller, or put it behind a link.`;
        throw new Problem(413, detail, { errors: [{ field: 'data', detail }] });
      }
      return { body: await KEEP[as](db, actor, bytes, name) };
    },
  }),
];
