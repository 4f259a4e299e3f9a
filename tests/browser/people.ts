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

const offered = new Map<string, Promise<string>>();

/** The id of one of the demo people by which the page of signing in offers them. */
async function demoPerson(context: BrowserContext, name: string): Promise<number> {
  const url = houseUrl();
  const page = offered.get(url) ?? context.request.get('/sign-in').then((answer) => answer.text());
  offered.set(url, page);
  const people = [...(await page).matchAll(/<button value="(\d+)"[^>]*><span[^>]*>([^<]+)</g)];
  const person = people.find(([, , called]) => called === name);
  if (!person) throw new Error(`${name} is not among the demo people.`);
  return Number(person[1]);
}

/**
 * Signs in as one of the demo people, in a browser of their own, by what their name on the page of signing in sends.
 * The first page is for the test to open. A page that is kept for times without a connection costs each new browser
 * all that it is made of: who tests that asks for it (`serviceWorkers: 'allow'`).
 */
export async function visit(
  browser: Browser,
  name: string,
  options: Parameters<Browser['newContext']>[0] = {},
): Promise<Visitor> {
  const context = await browser.newContext({ baseURL: houseUrl(), serviceWorkers: 'block', ...options });
  const came = await context.request.post('/sign-in', {
    form: { demo: await demoPerson(context, name) },
    headers: { origin: houseUrl() },
    maxRedirects: 0,
  });
  expect([came.status(), came.headers().location]).toEqual([303, '/']);
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
