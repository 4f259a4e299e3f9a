import { writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import lighthouse from 'lighthouse';
import { bringUp, ROOT } from './house/bringUp.ts';
import { ensureCommands } from './house/debian.ts';
import { freePort } from './house/ports.ts';
import { CHROMIUM, CHROMIUM_COMMANDS } from '../tests/browser/chromium.ts';

/**
 * Looks at each main view as Lighthouse does, on its phone profile (a slow phone on a slow network, simulated), signed in to
 * fresh demo data; writes the figures to docs/lighthouse.md.
 */
const VIEWS: readonly { name: string; path: string; as: string }[] = [
  { name: 'For me', path: '/for-me', as: 'member' },
  { name: 'Boards', path: '/boards', as: 'member' },
  { name: 'A board', path: '/boards/6', as: 'member' },
  { name: 'A post', path: '/posts/52', as: 'member' },
  { name: 'Shelf', path: '/shelf', as: 'member' },
  { name: 'Search', path: '/search?q=vault', as: 'member' },
  { name: 'Settings', path: '/settings', as: 'member' },
  { name: 'Run sheet', path: '/run-sheet', as: 'coordinator' },
  { name: 'Write', path: '/write', as: 'coordinator' },
  { name: 'Answers', path: '/answers', as: 'coordinator' },
  { name: 'People', path: '/people', as: 'coordinator' },
  { name: 'Automations', path: '/automations', as: 'coordinator' },
  { name: 'Gateways', path: '/gateways', as: 'coordinator' },
];
const AS: Record<string, string> = { member: 'Keola Palakiko', coordinator: 'Maud Fenwright' };
const WISHED = { performance: 95, accessibility: 100, 'best-practices': 100 } as const;
type Category = keyof typeof WISHED;
const CATEGORIES = Object.keys(WISHED) as Category[];

const house = await bringUp({
  place: 'lighthouse',
  port: 0,
  fresh: true,
  demo: true,
  durable: false,
  say: console.log,
  environment: { LOG_LEVEL: 'warn' },
});
ensureCommands(CHROMIUM_COMMANDS, console.log);
const port = await freePort();
const browser = await chromium.launch({
  ...CHROMIUM,
  args: [...(CHROMIUM.args ?? []), `--remote-debugging-port=${port}`],
});

async function cookieOf(name: string): Promise<string> {
  const context = await browser.newContext({ baseURL: house.url });
  const page = await context.newPage();
  await page.goto('/sign-in');
  await page.getByRole('button', { name: new RegExp(name) }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));
  const cookies = await context.cookies();
  await context.close();
  return cookies.map((cookie) => `${cookie.name}=${cookie.value}`).join('; ');
}

const lines: string[] = [];
const failing: string[] = [];
try {
  const cookies = new Map<string, string>();
  for (const [as, name] of Object.entries(AS)) cookies.set(as, await cookieOf(name));
  for (const view of VIEWS) {
    const result = await lighthouse(house.url + view.path, {
      port,
      output: 'json',
      logLevel: 'error',
      onlyCategories: CATEGORIES,
      extraHeaders: { Cookie: cookies.get(view.as) ?? '' },
      disableStorageReset: true,
    });
    if (!result) throw new Error(`Nothing came of ${view.path}`);
    const { categories, audits } = result.lhr;
    const score = (category: Category): number => Math.round(100 * (categories[category]?.score ?? 0));
    const paint = audits['largest-contentful-paint']?.displayValue ?? '';
    lines.push(`| ${view.name} | ${CATEGORIES.map((category) => score(category)).join(' | ')} | ${paint} |`);
    console.log(lines.at(-1));
    for (const category of CATEGORIES) {
      if (score(category) >= WISHED[category]) continue;
      const wrong = (categories[category]?.auditRefs ?? [])
        .filter(({ id, weight }) => weight > 0 && (audits[id]?.score ?? 1) < 0.9)
        .map(({ id }) => id);
      failing.push(
        `- ${view.name}, ${category}: ${score(category)} of ${WISHED[category]} (${wrong.join(', ')})`,
      );
    }
  }
} finally {
  await browser.close();
  await house.stop();
}
writeFileSync(
  join(ROOT, 'docs', 'lighthouse.md'),
  `# Lighthouse

Each main view on Lighthouse's phone profile: a slow phone on a slow network, simulated. Written by \`npm run lighthouse\` from
fresh demo data, on a machine with ${availableParallelism()} cores. Wished for: performance 95, accessibility 100, best practices 100.

| View | Performance | Accessibility | Best practices | Largest part in sight after |
| --- | ---: | ---: | ---: | ---: |
${lines.join('\n')}

${failing.length === 0 ? 'All are as wished for.' : `Below what is wished for:\n\n${failing.join('\n')}`}
`,
);
console.log('docs/lighthouse.md');
