import { createServer } from 'node:net';

/** Whether a port on loopback is free at this moment. */
export function isFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}

/** A free port on loopback: the wished one where it is free. */
export async function freePort(wished?: number): Promise<number> {
  if (wished !== undefined && wished > 0 && (await isFree(wished))) return wished;
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.once('error', reject);
    probe.listen(0, '127.0.0.1', () => {
      const address = probe.address();
      probe.close(() => {
        if (address && typeof address === 'object') resolve(address.port);
        else reject(new Error('No free port'));
      });
    });
  });
}
