import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { bytesWords } from '../src/core/words.ts';
import { backUp, restore } from './house/backups.ts';
import { placeFolder } from './house/bringUp.ts';
import { Stop } from './house/stop.ts';

const HELP = `./backup           write all that is kept, uploads too, into a file, while everything goes on
  --to FOLDER      where to (.clear-bell/backups)
  --keep N         keep only the latest N there
./restore FILE     bring such a file back into an empty database
  --replace        drop what is in the database first; stop web and engine before
both:
  --place NAME     the database of ./start --place NAME (main), which must be running
                   With DATABASE_URL in the environment, that database instead.`;

/** The database that is meant: that of the environment, or the one ./start runs under a place. */
function databaseOf(place: string): string {
  const own = process.env.DATABASE_URL;
  if (own !== undefined && own !== '') return own;
  if (!/^[a-z0-9-]+$/.test(place)) throw new Stop('--place takes small letters, digits and hyphens.');
  const file = join(placeFolder(place), 'database-url');
  if (!existsSync(file))
    throw new Stop(`Nothing runs under ${place}. Bring it up with ./start, or set DATABASE_URL.`);
  return readFileSync(file, 'utf8');
}

async function main(): Promise<void> {
  const [command, ...rest] = process.argv.slice(2);
  const { values, positionals } = parseArgs({
    args: rest,
    allowPositionals: true,
    options: {
      to: { type: 'string', default: join(placeFolder('main'), '..', 'backups') },
      keep: { type: 'string' },
      place: { type: 'string', default: 'main' },
      replace: { type: 'boolean', default: false },
      help: { type: 'boolean', default: false },
    },
  });
  const say = (line: string): void => console.log(line);
  if (values.help) {
    say(HELP);
    return;
  }
  const url = databaseOf(values.place);
  if (command === 'backup') {
    const keep = values.keep === undefined ? undefined : Number(values.keep);
    if (keep !== undefined && (!Number.isInteger(keep) || keep < 1))
      throw new Stop('--keep takes a whole number from 1 on.');
    const { file, bytes } = await backUp(url, {
      to: values.to,
      say,
      ...(keep === undefined ? {} : { keep }),
    });
    say(
      `Written: ${file} (${bytesWords(bytes)}). It holds everything in plain text; keep it as safe as the database.`,
    );
    return;
  }
  const [file] = positionals;
  if (file === undefined) throw new Stop(`Name the file to bring back.\n\n${HELP}`);
  const { migrations } = await restore(url, { file, replace: values.replace, say });
  say(
    `Brought back.${migrations > 0 ? ` ${migrations} migrations brought it up to date.` : ''} The secret it was used with must be set again.`,
  );
}

try {
  await main();
} catch (error) {
  console.error(error instanceof Error ? error.message : error);
  process.exit(1);
}
