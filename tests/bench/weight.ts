import { rmSync } from 'node:fs';
import { chromium, type Page } from '@playwright/test';
import { bringUp, placeFolder } from '../../scripts/house/bringUp.ts';
import { ensureCommands } from '../../scripts/house/debian.ts';
import { CHROMIUM, CHROMIUM_COMMANDS } from '../browser/chromium.ts';

const PLACE = 'bench-weight';
const PAGES = ['/for-me', '/boards/6', '/search?q=vault', '/run-sheet'];

interface Sent {
  script: number;
  all: number;
  unpacked: number;
}

/** What comes over the wire for a page that nothing is kept of, in bytes as the browser counts them. */
async function sentFor(page: Page, path: string): Promise<Sent> {
  const session = await page.context().newCDPSession(page);
  await session.send('Network.enable');
  await session.send('Network.setCacheDisabled', { cacheDisabled: true });
  await session.send('Network.setBypassServiceWorker', { bypass: true });
  const sent: Sent = { script: 0, all: 0, unpacked: 0 };
  const types = new Map<string, string>();
  session.on('Network.responseReceived', ({ requestId, type }) => types.set(requestId, type));
  session.on('Network.dataReceived', ({ requestId, dataLength }) => {
    if (types.get(requestId) === 'Script') sent.unpacked += dataLength;
  });
  session.on('Network.loadingFinished', ({ requestId, encodedDataLength }) => {
    sent.all += encodedDataLength;
    if (types.get(requestId) === 'Script') sent.script += encodedDataLength;
  });
  await page.goto(path);
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await page.waitForTimeout(1_500);
  await session.detach();
  return sent;
}

/** Bytes that a coordinator's browser is really sent, page by page, of the demo organisation. */
export async function weight(): Promise<void> {
  rmSync(placeFolder(PLACE), { recursive: true, force: true });
  const house = await bringUp({
    place: PLACE,
    port: 0,
    fresh: true,
    demo: true,
    durable: false,
    say: () => undefined,
  });
  ensureCommands(CHROMIUM_COMMANDS, console.log);
  const browser = await chromium.launch(CHROMIUM);
  try {
    const context = await browser.newContext({ baseURL: house.url });
    const page = await context.newPage();
    await page.goto('/sign-in');
    await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
    await page.getByRole('button', { name: /Maud Fenwright/ }).click();
    await page.waitForURL((url) => url.pathname !== '/sign-in');
    console.log('\nSent over the wire for a page that nothing is kept of, as the browser counts it:');
    for (const path of PAGES) {
      const sent = await sentFor(page, path);
      const kilobytes = (bytes: number): string => (bytes / 1024).toFixed(0).padStart(4);
      console.log(
        `  ${path.padEnd(18)} script ${kilobytes(sent.script)} kB (${kilobytes(sent.unpacked)} kB unpacked), everything ${kilobytes(sent.all)} kB`,
      );
    }
  } finally {
    await browser.close();
    await house.stop();
    rmSync(placeFolder(PLACE), { recursive: true, force: true });
  }
}
