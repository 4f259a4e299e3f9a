import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { format, resolveConfig } from 'prettier';
import { ROOT } from './house/bringUp.ts';

const FILE = join(ROOT, 'src', 'ui', 'endpoints.ts');
const FOLDER = join(ROOT, 'src', 'pages');

const filesUnder = (folder: string): string[] =>
  readdirSync(folder, { withFileTypes: true }).flatMap((entry) =>
    entry.isDirectory() ? filesUnder(join(folder, entry.name)) : [join(folder, entry.name)],
  );

/** The endpoints that the application's own pages call, by their addresses: not those of the API, which others call. */
const lines = filesUnder(FOLDER)
  .map((file) => relative(FOLDER, file).replaceAll('\\', '/'))
  .filter((file) => file.endsWith('.ts') && !file.startsWith('api/v1/'))
  .sort()
  .map((file) => {
    const path = file
      .replace(/\.ts$/, '')
      .replace(/(^|\/)index$/, '')
      .replace(/\[[^\]]+\]/g, '[]');
    return `  '/${path}': typeof import('../pages/${file}');`;
  });

const text = await format(
  `/* Written by \`npm run endpoints\` from the files under src/pages; types alone, nothing of them comes to the browser. */
/** Every endpoint of the application's own pages by its address, each part of it that is chosen by the caller as \`[]\`. */
export interface Endpoints {
${lines.join('\n')}
}
`,
  { ...(await resolveConfig(FILE)), filepath: FILE },
);

/** With \`--check\` nothing is written: it fails where what stands there is not what would be written. */
if (!process.argv.includes('--check')) writeFileSync(FILE, text);
else if (readFileSync(FILE, 'utf8') !== text) {
  console.error('src/ui/endpoints.ts is not of the endpoints there are. Run: npm run endpoints');
  process.exitCode = 1;
}
