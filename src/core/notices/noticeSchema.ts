import { z } from 'zod';
import { NOTICE_KINDS, TIMES } from './notice.ts';

export const noticeChoicesSchema = z.object({
  digestAt: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'An hour is needed, such as 17:00'),
  choices: z.partialRecord(
    z.enum(NOTICE_KINDS),
    z.object({ inbox: z.boolean(), mail: z.enum(TIMES), push: z.enum(TIMES) }),
  ),
});

/** A device that takes push messages, RFC 8030 and RFC 8291. */
export const deviceSchema = z.object({
  label: z.string().trim().min(1).max(120),
  endpoint: z.url('An endpoint is an address').max(1000),
  keys: z.object({
    p256dh: z.string().regex(/^[A-Za-z0-9_-]{80,100}={0,2}$/, 'A public key on the curve P-256 is needed'),
    auth: z.string().regex(/^[A-Za-z0-9_-]{16,40}={0,2}$/, 'An authentication secret is needed'),
  }),
});
