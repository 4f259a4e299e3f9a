import { z } from 'zod';
import type { Quiet } from './quiet.ts';

const hour = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'An hour is needed, such as 22:00');

/** Quiet hours as they are sent and kept. */
export const quietSchema: z.ZodType<Quiet> = z.object({ from: hour, to: hour });
