import { rmSync } from 'node:fs';
import { cpus } from 'node:os';
import { placeFolder } from '../../scripts/house/bringUp.ts';
import { createDatabase, startMariaDb, type LocalDatabase } from '../../scripts/house/mariadb.ts';
import { connect, type Database } from '../../src/server/database/connection.ts';
import { answering } from './answering.ts';
import { asking } from './asking.ts';
import { automating } from './automating.ts';
import { directory } from './directory.ts';
import { expanding, gathering } from './expanding.ts';
import { layPeople } from './data.ts';
import { following } from './following.ts';
import { gateways } from './gateways.ts';
import { idling } from './idling.ts';
import { keeping } from './keeping.ts';
import { lateness } from './lateness.ts';
import { mailing } from './mailing.ts';
import { monday } from './monday.ts';
import { oneMillion } from './oneMillion.ts';
import { oneYear } from './oneYear.ts';
import { pages } from './pages.ts';
import { planning } from './planning.ts';
import { replaying } from './replaying.ts';
import { searching } from './searching.ts';
import { streaming } from './streaming.ts';
import { takingOut } from './takingOut.ts';
import { weight } from './weight.ts';
import { sized, TINY } from './size.ts';

/** Prints figures with their ratio to a limit measured in the same run. It never judges: see docs/bench.md. */
const folder = `${placeFolder('bench')}/database`;
rmSync(folder, { recursive: true, force: true });
const local: LocalDatabase = await startMariaDb(folder, { durable: true, say: console.log });
const model = cpus()[0]?.model ?? 'unknown processor';
console.log(
  `${cpus().length} cores (${model}), Node.js ${process.version}, MariaDB with every commit on disk\n`,
);

async function withDatabase(
  name: string,
  people: number,
  work: (db: Database, url: string) => Promise<void>,
): Promise<void> {
  const url = local.url(`clear_bell_${name}`);
  await createDatabase(url, true);
  const db = connect(url, 16);
  try {
    await layPeople(db, people);
    await work(db, url);
  } finally {
    await db.destroy();
    await createDatabase(url, true);
  }
}

const wanted = process.argv.slice(2);
const chosen = (name: string): boolean => wanted.length === 0 || wanted.includes(name);
/** What takes a quarter of an hour and more is done only where it is named, and in its tiny size. */
const chosenLong = (name: string): boolean => wanted.includes(name) || (chosen(name) && TINY);
try {
  if (chosen('answering')) await withDatabase('answering', sized(100_000), answering);
  if (chosen('asking')) await withDatabase('asking', sized(100_000), asking);
  if (chosen('automating')) await withDatabase('automating', sized(100_000), automating);
  if (chosen('directory')) await withDatabase('directory', sized(100_000), directory);
  if (chosen('expanding'))
    await withDatabase('expanding', sized(100_000), async (db) => {
      await expanding(db);
      await gathering(db);
    });
  if (chosen('following')) await withDatabase('following', sized(1_000), following);
  if (chosen('gateways')) await withDatabase('gateways', sized(10_000), gateways);
  if (chosen('idling')) await withDatabase('idling', sized(1_000), idling);
  if (chosen('keeping')) await withDatabase('keeping', sized(100_000), keeping);
  if (chosen('lateness')) await withDatabase('lateness', sized(10_000), lateness);
  if (chosen('mailing')) await withDatabase('mailing', sized(5_000), mailing);
  if (chosen('monday')) await withDatabase('monday', sized(100_000), monday);
  if (chosenLong('one million')) await withDatabase('one_million', sized(100_000), oneMillion);
  if (chosenLong('one year')) await withDatabase('one_year', sized(10_000), oneYear);
  if (chosen('pages')) await withDatabase('pages', sized(100_000), pages);
  if (chosen('planning')) await withDatabase('planning', sized(100_000), planning);
  if (chosen('replaying')) await withDatabase('replaying', sized(10_000), replaying);
  if (chosen('searching')) await withDatabase('searching', sized(5_000), searching);
  if (chosen('taking out')) await withDatabase('taking_out', sized(100_000), takingOut);
  if (chosen('streaming')) await withDatabase('streaming', sized(10_000), streaming);
  // Held by a browser test as well, which brings up the same application.
  if (chosen('weight') && !TINY) await weight();
} finally {
  await local.running.stop();
  rmSync(folder, { recursive: true, force: true });
}
