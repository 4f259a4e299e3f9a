import { join } from 'node:path';
import type { FullConfig } from '@playwright/test';
import { bringUp, placeFolder, ROOT } from '../../scripts/house/bringUp.ts';
import { build } from '../../scripts/house/build.ts';

export interface HouseUrls {
  url: string;
  mailboxUrl: string;
  devicesUrl: string;
}

/** Brings up, for each worker, a whole application of its own with fresh demo data; all down again after the tests. */
export default async function houses({ workers }: FullConfig): Promise<() => Promise<void>> {
  const say = (line: string): void => console.log(`  ${line}`);
  const dist = join(placeFolder('check'), 'dist');
  build(ROOT, dist, say);
  const up = await Promise.all(
    Array.from({ length: workers }, (_, i) =>
      bringUp({
        place: `check-${i}`,
        port: 0,
        fresh: true,
        demo: true,
        durable: false,
        say: i === 0 ? say : () => undefined,
        environment: { LOG_LEVEL: 'warn' },
        dist,
      }),
    ),
  );
  process.env.HOUSES = JSON.stringify(
    up.map(({ url, mailboxUrl, devicesUrl }): HouseUrls => ({ url, mailboxUrl, devicesUrl })),
  );
  return async () => {
    await Promise.all(up.map((house) => house.stop()));
  };
}
