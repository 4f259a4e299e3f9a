import type { z } from 'zod';
import { deviceSchema } from '../../core/notices/noticeSchema.ts';
import { Problem } from '../problem.ts';

/** Asks the stand-in push service of a demo for a device, as a browser asks its own push service for a subscription. */
export async function practiceDevice(standIn: string, owner: string): Promise<z.infer<typeof deviceSchema>> {
  const response = await fetch(new URL('/devices', standIn), {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ label: owner }),
    signal: AbortSignal.timeout(5_000),
  }).catch(() => undefined);
  if (!response?.ok) throw new Problem(503, 'The stand-in push service does not answer. Try again.');
  return deviceSchema.parse({ ...((await response.json()) as object), label: 'Practice device' });
}
