import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';
import { ensureCommands } from './house/debian.ts';
import { ROOT } from './house/bringUp.ts';
import { MARIADB_COMMANDS } from './house/mariadb.ts';
import { Stop } from './house/stop.ts';

const bin = (name: string): string => join(ROOT, 'node_modules', '.bin', name);

/** What holds or does not: each counts as one test in the last line. */
const CHECKS: [string, string[]][] = [
  ['Generated types', [bin('astro'), 'sync']],
  ['Format', [bin('prettier'), '--check', '--log-level', 'warn', '.']],
  ['Lint', [bin('eslint'), '--max-warnings', '0', '.']],
  ['Types', [bin('astro'), 'check', '--minimumSeverity', 'warning']],
  ['Import rules', [bin('depcruise'), '--config', '.dependency-cruiser.mjs', 'src']],
  ['Unused exports and dependencies', [bin('knip')]],
];

const vitestSchema = z.object({
  numPassedTests: z.number(),
  numFailedTests: z.number(),
  numPendingTests: z.number(),
});
const playwrightSchema = z.object({
  stats: z.object({ expected: z.number(), unexpected: z.number(), flaky: z.number(), skipped: z.number() }),
});

interface Count {
  passed: number;
  failed: number;
  skipped: number;
}

function run(title: string, command: string[]): boolean {
  const began = Date.now();
  console.log(`\n== ${title}`);
  const [program = '', ...args] = command;
  const { status } = spawnSync(program, args, {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1', DO_NOT_TRACK: '1', FORCE_COLOR: '0', CI: 'true' },
  });
  console.log(
    `   ${status === 0 ? 'holds' : 'DOES NOT HOLD'} (${((Date.now() - began) / 1000).toFixed(1)} s)`,
  );
  return status === 0;
}

function counted<T>(file: string, schema: z.ZodType<T>, count: (report: T) => Count): Count {
  try {
    return count(schema.parse(JSON.parse(readFileSync(file, 'utf8'))));
  } catch {
    return { passed: 0, failed: 1, skipped: 0 };
  }
}

function main(): void {
  ensureCommands({ ...MARIADB_COMMANDS, chromium: 'chromium' }, (line) => console.log(line));
  const folder = join(ROOT, '.clear-bell', 'check');
  const unit = join(folder, 'tests.json');
  const browser = join(folder, 'browser.json');
  mkdirSync(folder, { recursive: true });
  for (const file of [unit, browser]) rmSync(file, { force: true });

  const total: Count = { passed: 0, failed: 0, skipped: 0 };
  const add = (count: Count): void => {
    total.passed += count.passed;
    total.failed += count.failed;
    total.skipped += count.skipped;
  };
  const holds = (held: boolean): void => add({ passed: held ? 1 : 0, failed: held ? 0 : 1, skipped: 0 });

  for (const [title, command] of CHECKS) holds(run(title, command));
  const unitRan = run('Core and server tests', [
    bin('vitest'),
    'run',
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${unit}`,
  ]);
  const units = counted(unit, vitestSchema, (report) => ({
    passed: report.numPassedTests,
    failed: report.numFailedTests,
    skipped: report.numPendingTests,
  }));
  add(units);
  // A file that does not even load fails the run without failing a test.
  if (!unitRan && units.failed === 0) holds(false);

  const browserRan = run('Browser tests', [bin('playwright'), 'test']);
  const browsers = counted(browser, playwrightSchema, ({ stats }) => ({
    passed: stats.expected + stats.flaky,
    failed: stats.unexpected,
    skipped: stats.skipped,
  }));
  add(browsers);
  if (!browserRan && browsers.failed === 0) holds(false);

  const skipped = total.skipped > 0 ? `, ${total.skipped} skipped` : '';
  console.log(`\n${total.passed} passed, ${total.failed} failed${skipped}`);
  process.exitCode = total.failed === 0 && total.passed > 0 ? 0 : 1;
}

try {
  main();
} catch (error) {
  console.error(error instanceof Stop ? error.message : error);
  console.log('\n0 passed, 1 failed');
  process.exitCode = 1;
}
