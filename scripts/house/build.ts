import { createHash } from 'node:crypto';
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { brotliCompressSync, gzipSync } from 'node:zlib';
import { buildSync } from 'esbuild';
import { Stop } from './stop.ts';

const SOURCES = ['src', 'scripts/web.ts', 'public', 'astro.config.mjs', 'tsconfig.json', 'package-lock.json'];

/** What is started from a build, by the name it has there. */
const PROCESSES = {
  web: 'scripts/web.ts',
  engine: 'src/server/engine/main.ts',
  'mail-in': 'src/server/mail-in/main.ts',
  'stand-ins': 'src/standins/main.ts',
  worker: 'src/server/workers/worker.ts',
} as const;

/** How a process is started from a build: the command, and what of its environment depends on where the build lies. */
export function built(
  out: string,
  name: Exclude<keyof typeof PROCESSES, 'worker'>,
): { command: string[]; environment: NodeJS.ProcessEnv } {
  const script = (which: keyof typeof PROCESSES): string => join(out, 'processes', `${which}.mjs`);
  return {
    command: [process.execPath, script(name), ...(name === 'web' ? [join(out, 'server', 'entry.mjs')] : [])],
    environment: { NODE_ENV: 'production', CLEAR_BELL_WORKER: script('worker') },
  };
}

function* files(path: string): Generator<string> {
  if (!existsSync(path)) return;
  if (
    !readdirSync(join(path, '..'), { withFileTypes: true }).some(
      (e) => e.isDirectory() && join(path, '..', e.name) === path,
    )
  ) {
    yield path;
    return;
  }
  for (const entry of readdirSync(path, { withFileTypes: true })) yield* files(join(path, entry.name));
}

function sumOf(root: string): string {
  const sum = createHash('sha256');
  for (const source of SOURCES)
    for (const file of [...files(join(root, source))].sort())
      sum.update(relative(root, file)).update(readFileSync(file));
  return sum.digest('hex');
}

/** Builds the application into a folder, unless that holds a build of these very sources. */
export function build(root: string, out: string, say: (line: string) => void): void {
  const stamp = join(out, 'built-from');
  const sum = sumOf(root);
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === sum) return;
  say('Building the application ...');
  const made = spawnSync(
    process.execPath,
    [join(root, 'node_modules/astro/astro.js'), 'build', '--outDir', out],
    {
      cwd: root,
      encoding: 'utf8',
      env: { ...process.env, NODE_ENV: 'production', ASTRO_TELEMETRY_DISABLED: '1' },
    },
  );
  if (made.status !== 0) throw new Stop(`The build failed:\n${made.stdout}\n${made.stderr}`);
  buildProcesses(root, join(out, 'processes'));
  compressAssets(join(out, 'client'));
  writeFileSync(stamp, sum);
}

/** Puts our own code of each process together, what they share once; packages are taken from where they are installed. */
function buildProcesses(root: string, outdir: string): void {
  rmSync(outdir, { recursive: true, force: true });
  buildSync({
    absWorkingDir: root,
    entryPoints: { ...PROCESSES },
    outdir,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    splitting: true,
    packages: 'external',
    platform: 'node',
    format: 'esm',
    target: 'node20',
  });
}

/** Lays beside each asset that is text its compressed forms, as small as they get, so that none is compressed when asked for. */
function compressAssets(folder: string): void {
  for (const file of files(folder)) {
    if (!/\.(js|css|svg|webmanifest|json|txt)$/.test(file)) continue;
    const bytes = readFileSync(file);
    if (bytes.byteLength < 800) continue;
    writeFileSync(`${file}.gz`, gzipSync(bytes, { level: 9 }));
    writeFileSync(`${file}.br`, brotliCompressSync(bytes));
  }
}
