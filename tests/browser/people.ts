import type { HouseUrls } from './house.ts';
import { test as base, expect, type Browser, type BrowserContext, type Page } from '@playwright/test';

export { expect };

/** The application that was brought up for this worker. */
function own(): HouseUrls {
  const houses = JSON.parse(process.env.HOUSES ?? '[]') as HouseUrls[];
  const house = houses[Number(process.env.TEST_PARALLEL_INDEX ?? 0)];
  if (!house) throw new Error('No application was brought up for this worker.');
  return house;
}

export const houseUrl = (): string => own().url;
export const devicesUrl = (): string => own().devicesUrl;
export const mailboxUrl = (): string => own().mailboxUrl;

export interface Visitor {
  page: Page;
  context: BrowserContext;
}

/** Signs in as one of the demo people, in a browser of their own, by pressing their name. */
export async function visit(
  browser: Browser,
  name: string,
  options: Parameters<Browser['newContext']>[0] = {},
): Promise<Visitor> {
  const context = await browser.newContext({ baseURL: houseUrl(), ...options });
  const page = await context.newPage();
  // A press before its island is awake would be lost; a person is slower than that, a test is not.
  const awake = () => page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  const go = page.goto.bind(page);
  page.goto = async (...args) => {
    const response = await go(...args);
    await awake();
    return response;
  };
  const again = page.reload.bind(page);
  page.reload = async (...args) => {
    const response = await again(...args);
    await awake();
    return response;
  };
  await page.goto('/sign-in');
  await page.getByRole('button', { name: new RegExp(name) }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));
  return { page, context };
}

/** Fails a test in which a page logged an error or broke its content security policy. */
export const test = base.extend<{ quiet: undefined; expectedFaults: RegExp }>({
  /** What a test provokes on purpose. */
  expectedFaults: [
    /status of (4\d\d|503)|net::ERR_|document's frame is sandboxed|error occurred when fetching the script/,
    { option: true },
  ],
  quiet: [
    async ({ browser, expectedFaults }, use) => {
      const faults: string[] = [];
      const opened: BrowserContext[] = [];
      const watch = (context: BrowserContext): void => {
        context.on('weberror', (error) => faults.push(String(error.error())));
        context.on('console', (message) => {
          if (message.type() === 'error' && !expectedFaults.test(message.text())) faults.push(message.text());
        });
      };
      const before = browser.newContext.bind(browser);
      browser.newContext = async (...args) => {
        const context = await before(...args);
        watch(context);
        opened.push(context);
        return context;
      };
      await use(undefined);
      await Promise.all(opened.map((context) => context.close()));
      browser.newContext = before;
      expect(faults).toEqual([]);
    },
    { auto: true },
  ],
});
