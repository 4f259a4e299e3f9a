import { randomInt } from 'node:crypto';
import { createServer } from 'node:net';

/** Below the ports that systems give to outgoing connections: one that is free now is not taken by one of those a moment later. */
const [FIRST, LAST] = [10_000, 32_000];
const MOST_TRIES = 200;
const given = new Set<number>();

/** Whether a port on loopback is free at this moment. */
export function isFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}

/** A free port on loopback, none that was given before: the wished one where it is free. */
export async function freePort(wished?: number): Promise<number> {
  if (wished !== undefined && wished > 0 && (await isFree(wished))) return wished;
  for (let tries = 0; tries < MOST_TRIES; tries++) {
    const port = randomInt(FIRST, LAST);
    if (given.has(port) || !(await isFree(port))) continue;
    given.add(port);
    return port;
  }
  throw new Error('No free port');
}
