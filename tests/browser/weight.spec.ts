import { expect, test, visit } from './people.ts';

/** Most bytes of script a place may send before anything is pressed, as they come over the wire. */
const LIMITS: [who: string, path: string, most: number][] = [
  ['Wren Ashdown', '/for-me', 120_000],
  ['Wren Ashdown', '/boards/1', 120_000],
  ['Wren Ashdown', '/search', 120_000],
  ['Wren Ashdown', '/calendar', 120_000],
  ['Maud Fenwright', '/run-sheet', 300_000],
  ['Maud Fenwright', '/people', 300_000],
  ['Maud Fenwright', '/write', 300_000],
];

test('a page sends no more script than its place may', async ({ browser }) => {
  const seen: Record<string, number> = {};
  for (const [who, path] of LIMITS) {
    // What the worker for reading offline hands on is not what came over the wire.
    const { page, context } = await visit(browser, who);
    await page.goto(path);
    const scripts = await page.evaluate(() =>
      (performance.getEntriesByType('resource') as PerformanceResourceTiming[])
        .filter((entry) => /\.m?js$/.test(new URL(entry.name).pathname))
        .map((entry) => ({ sent: entry.encodedBodySize, plain: entry.decodedBodySize })),
    );
    expect(scripts.length, path).toBeGreaterThan(3);
    // What is large is compressed.
    for (const { sent, plain } of scripts) if (plain > 5_000) expect(sent, path).toBeLessThan(plain * 0.6);
    seen[path] = scripts.reduce((sum, each) => sum + each.sent, 0);
    await context.close();
  }
  for (const [, path, most] of LIMITS)
    expect(seen[path], `${path} of ${JSON.stringify(seen)}`).toBeLessThan(most);
});
