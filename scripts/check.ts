import { spawn } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
import { stripVTControlCharacters } from 'node:util';
import { z } from 'zod';
import { BACKUP_COMMANDS } from './house/backups.ts';
import { ensureCommands } from './house/debian.ts';
import { ROOT } from './house/bringUp.ts';
import { MARIADB_COMMANDS } from './house/mariadb.ts';
import { Stop } from './house/stop.ts';
import { CHROMIUM_COMMANDS } from '../tests/browser/chromium.ts';

const bin = (name: string): string => join(ROOT, 'node_modules', '.bin', name);

/** What holds or does not: each counts as one test in the last line. */
const CHECKS: [string, string[]][] = [
  ['Generated types', [bin('astro'), 'sync']],
  ['Format', [bin('prettier'), '--check', '--log-level', 'warn', '.']],
  [
    'Types of the endpoints',
    [process.execPath, '--import', 'tsx', join('scripts', 'endpoints.ts'), '--check'],
  ],
  ['Lint', [bin('eslint'), '--max-warnings', '0', '.']],
  ['Types', [bin('astro'), 'check', '--minimumSeverity', 'warning']],
  ['Import rules', [bin('depcruise'), '--config', '.dependency-cruiser.mjs', 'src']],
  ['Unused exports and dependencies', [bin('knip')]],
];

const BENCH = [process.execPath, '--import', 'tsx', join('tests', 'bench', 'main.ts')];

/** The types of rows beside what the database answered in the server tests, which is in a folder. */
const ROW_TYPES = [process.execPath, '--import', 'tsx', join('scripts', 'rowTypes.ts')];

const vitestSchema = z.object({
  numPassedTests: z.number(),
  numFailedTests: z.number(),
  numPendingTests: z.number(),
  testResults: z.array(
    z.object({
      name: z.string(),
      status: z.string(),
      message: z.string(),
      assertionResults: z.array(
        z.object({ fullName: z.string(), status: z.string(), failureMessages: z.array(z.string()) }),
      ),
    }),
  ),
});
interface Suite {
  suites: Suite[];
  specs: { title: string; ok: boolean; file: string }[];
}
const unhandledSchema = z.array(z.object({ file: z.string().nullable(), error: z.string() }));
const suiteSchema: z.ZodType<Suite> = z.object({
  suites: z.lazy(() => z.array(suiteSchema).default([])),
  specs: z.array(z.object({ title: z.string(), ok: z.boolean(), file: z.string() })).default([]),
});
const playwrightSchema = z.object({
  stats: z.object({ expected: z.number(), unexpected: z.number(), flaky: z.number(), skipped: z.number() }),
  suites: z.array(suiteSchema),
});

interface Count {
  passed: number;
  failed: number;
  skipped: number;
  /** What failed, a line each: told once more at the end, where it is found without reading everything. */
  which: string[];
}

/** The first lines of what a test said when it failed. */
const briefly = (text: string): string =>
  stripVTControlCharacters(text).split('\n').slice(0, 4).join('\n    ').slice(0, 600);

const failedUnits = (report: z.infer<typeof vitestSchema>): string[] =>
  report.testResults.flatMap(({ name, status, message, assertionResults }) => {
    const tests = assertionResults
      .filter((test) => test.status === 'failed')
      .map(
        (test) =>
          `${relative(ROOT, name)}: ${test.fullName}\n    ${briefly(test.failureMessages.join('\n'))}`,
      );
    return tests.length === 0 && status === 'failed'
      ? [`${relative(ROOT, name)}: ${briefly(message)}`]
      : tests;
  });

const failedSpecs = ({ suites, specs }: Suite): string[] => [
  ...specs.filter(({ ok }) => !ok).map(({ title, file }) => `${file}: ${title}`),
  ...suites.flatMap(failedSpecs),
];

interface Ran {
  held: boolean;
  /** The last lines of what it said. */
  last: string;
}

/** Enough for the errors that belong to no test, and the summary under them. */
const LAST_LINES = 60;

/** The reporter that writes down what the report of the tests does not have. */
const UNHANDLED = join(ROOT, 'tests', 'unhandledErrors.ts');

/** Runs a command; its output is shown as one piece when it is done, so that two can run side by side, or as it comes. */
function run(
  title: string,
  command: string[],
  show: 'at the end' | 'as it comes',
  env: Record<string, string> = {},
): Promise<Ran> {
  const began = Date.now();
  const [program = '', ...args] = command;
  const whole = show === 'at the end';
  if (!whole) console.log(`\n== ${title}`);
  const running = spawn(program, args, {
    cwd: ROOT,
    stdio: ['ignore', 'pipe', 'pipe'],
    env: {
      ...process.env,
      ASTRO_TELEMETRY_DISABLED: '1',
      DO_NOT_TRACK: '1',
      FORCE_COLOR: '0',
      CI: 'true',
      ...env,
    },
  });
  const said: Buffer[] = [];
  const hear = (part: Buffer): void => {
    said.push(part);
    if (!whole) process.stdout.write(part);
  };
  running.stdout.on('data', hear);
  running.stderr.on('data', hear);
  return new Promise((resolve) => {
    const end = (held: boolean): void => {
      const seconds = ((Date.now() - began) / 1000).toFixed(1);
      const output = Buffer.concat(said).toString().trim();
      if (whole) console.log(`\n== ${title}${output === '' ? '' : `\n${output}`}`);
      console.log(`   ${whole ? '' : `${title}: `}${held ? 'holds' : 'DOES NOT HOLD'} (${seconds} s)`);
      resolve({ held, last: stripVTControlCharacters(output).split('\n').slice(-LAST_LINES).join('\n    ') });
    };
    running.once('error', () => end(false));
    running.once('close', (code) => end(code === 0));
  });
}

function counted<T>(file: string, schema: z.ZodType<T>, count: (report: T) => Count): Count {
  try {
    return count(schema.parse(JSON.parse(readFileSync(file, 'utf8'))));
  } catch {
    return { passed: 0, failed: 1, skipped: 0, which: [`There is no report in ${relative(ROOT, file)}`] };
  }
}

/** Errors that nobody caught in a run of the tests; none where it wrote none down. */
function unhandledIn(file: string): z.infer<typeof unhandledSchema> {
  try {
    return unhandledSchema.parse(JSON.parse(readFileSync(file, 'utf8')));
  } catch {
    return [];
  }
}

/**
 * Runs the core, component and server tests. An error that nobody caught fails the run without failing a test: as a test that failed
 * has, the files it came in have one more go, and the output names it.
 */
async function runUnits(folder: string, report: string, env: Record<string, string>): Promise<Ran> {
  const unhandled = join(folder, 'unhandled.json');
  rmSync(unhandled, { force: true });
  const vitest = (title: string, ...args: string[]): Promise<Ran> =>
    run(
      title,
      [bin('vitest'), 'run', '--reporter=default', `--reporter=${UNHANDLED}`, ...args],
      'as it comes',
      {
        ...env,
        UNHANDLED_ERRORS_TO: unhandled,
      },
    );
  const ran = await vitest('Core and server tests', '--reporter=json', `--outputFile.json=${report}`);
  const found = unhandledIn(unhandled);
  const files = [...new Set(found.map(({ file }) => file))];
  if (ran.held || files.length === 0 || files.includes(null)) return ran;
  console.log(`\nErrors that nobody caught:\n${found.map(({ error }) => error).join('\n')}`);
  return vitest('Files with an error that nobody caught', ...files.filter((file) => file !== null));
}

async function main(): Promise<void> {
  ensureCommands({ ...MARIADB_COMMANDS, ...BACKUP_COMMANDS, ...CHROMIUM_COMMANDS, curl: 'curl' }, (line) =>
    console.log(line),
  );
  const folder = join(ROOT, '.clear-bell', 'check');
  const unit = join(folder, 'tests.json');
  const browser = join(folder, 'browser.json');
  mkdirSync(folder, { recursive: true });
  const answers = join(folder, 'answers');
  for (const made of [unit, browser, answers]) rmSync(made, { force: true, recursive: true });

  const total: Count = { passed: 0, failed: 0, skipped: 0, which: [] };
  const add = (count: Count): void => {
    total.passed += count.passed;
    total.failed += count.failed;
    total.skipped += count.skipped;
    total.which.push(...count.which);
  };
  const holds = (title: string, held: boolean, why = ''): void =>
    add({ passed: held ? 1 : 0, failed: held ? 0 : 1, skipped: 0, which: held ? [] : [title + why] });

  // What one core reads through, beside tests that mostly wait for engines; the browser tests then have both cores.
  const [, unitRan] = await Promise.all([
    (async () => {
      for (const [title, command] of CHECKS) holds(title, (await run(title, command, 'at the end')).held);
    })(),
    (async () => {
      const ran = await runUnits(folder, unit, { ANSWERS_TO: answers });
      holds('Types of rows', (await run('Types of rows', [...ROW_TYPES, answers], 'at the end')).held);
      // Every part of the bench runs once at a tiny size, so that it is there when figures are wanted. Here, since reading through
      // takes longer than the tests.
      holds(
        'The bench runs',
        (await run('The bench runs', BENCH, 'at the end', { BENCH_SIZE: 'tiny' })).held,
      );
      return ran;
    })(),
  ]);
  const units = counted(unit, vitestSchema, (report) => ({
    passed: report.numPassedTests,
    failed: report.numFailedTests,
    skipped: report.numPendingTests,
    which: failedUnits(report),
  }));
  add(units);
  // An error that belongs to no test fails the run without failing a test: what it said is told once more.
  const endedBadly = ({ last }: Ran): string => ` ended with an error, having failed no test:\n    ${last}`;
  if (!unitRan.held && units.failed === 0) holds('Core and server tests', false, endedBadly(unitRan));

  const browserRan = await run('Browser tests', [bin('playwright'), 'test'], 'as it comes');
  const browsers = counted(browser, playwrightSchema, ({ stats, suites }) => ({
    passed: stats.expected + stats.flaky,
    failed: stats.unexpected,
    skipped: stats.skipped,
    which: suites.flatMap(failedSpecs),
  }));
  add(browsers);
  if (!browserRan.held && browsers.failed === 0) holds('Browser tests', false, endedBadly(browserRan));

  if (total.which.length > 0)
    console.log(`\nFailed:\n${total.which.map((line) => `  - ${line}`).join('\n')}`);
  const skipped = total.skipped > 0 ? `, ${total.skipped} skipped` : '';
  console.log(`\n${total.passed} passed, ${total.failed} failed${skipped}`);
  process.exitCode = total.failed === 0 && total.passed > 0 ? 0 : 1;
}

try {
  await main();
} catch (error) {
  console.error(error instanceof Stop ? error.message : error);
  console.log('\n0 passed, 1 failed');
  process.exitCode = 1;
}
