import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { build } from '../../scripts/house/build.ts';
import { placeFolder, ROOT } from '../../scripts/house/bringUp.ts';

/** The scripts of the islands on For me, with everything they import. */
const ISLANDS = /^(ForMe|Clock|Account|client)\./;

/** JavaScript sent to a member on For me, compressed, following the imports of its islands. */
export function weight(): void {
  const out = `${placeFolder('bench')}/dist`;
  build(ROOT, out, console.log);
  const folder = join(out, 'client', '_astro');
  const scripts = readdirSync(folder).filter((name) => name.endsWith('.js'));
  const needed = new Set(scripts.filter((name) => ISLANDS.test(name)));
  for (const name of needed) {
    const source = readFileSync(join(folder, name), 'utf8');
    for (const [, imported] of source.matchAll(/(?:from|import)\s*["']\.\/([^"']+\.js)["']/g))
      if (imported) needed.add(imported);
  }
  const sizes = [...needed].map((name) => gzipSync(readFileSync(join(folder, name)), { level: 6 }).length);
  const kilobytes = sizes.reduce((sum, size) => sum + size, 0) / 1024;
  console.log(
    `JavaScript for a member on For me: ${kilobytes.toFixed(1)} kB compressed in ${needed.size} files (aim under 120 kB)`,
  );
}
