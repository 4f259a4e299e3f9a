import { spawnSync } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { format, resolveConfig } from 'prettier';
import { placeFolder, ROOT } from '../../scripts/house/bringUp.ts';
import { build } from '../../scripts/house/build.ts';
import { ensureCommands } from '../../scripts/house/debian.ts';
import { createDatabase } from '../../scripts/house/mariadb.ts';
import { connect, rows } from '../../src/server/database/connection.ts';
import { layPeople } from '../bench/data.ts';
import { seeded } from '../bench/size.ts';
import { openSessions } from '../bench/web.ts';
import { startCluster } from './cluster.ts';
import { FAULTS } from './faults.ts';
import { startHouse } from './house.ts';
import { Kept } from './kept.ts';
import { report } from './report.ts';
import { isRight, round } from './round.ts';

const { values } = parseArgs({
  options: {
    rounds: { type: 'string', default: '20' },
    people: { type: 'string', default: '10000' },
    answers: { type: 'string', default: '2000' },
    faults: { type: 'string' },
    seed: { type: 'string', default: '1' },
    'go-on': { type: 'boolean', default: false },
  },
});
const ROUNDS = Number(values.rounds);
const kept = new Kept(
  join(ROOT, 'docs', 'drill.jsonl'),
  {
    people: Number(values.people),
    answers: Number(values.answers),
    seed: Number(values.seed),
    cores: cpus().length,
  },
  values['go-on'],
);
const { people: PEOPLE, answers: ANSWERS, seed: SEED } = kept.size;
const DATABASE = 'clear_bell_drill';
const GROUP = 1;
/** The first person coordinates and is not among those told. */
const FIRST = 2;

/** A disk of its own for a node, in memory, so that it can be full by itself; false where this account may not make one. */
function ownDisk(folder: string): boolean {
  mkdirSync(folder, { recursive: true });
  return spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=3g', 'tmpfs', folder]).status === 0;
}

/** Writes the account as it stands: after each round, so that one that is stopped leaves what came of those before. */
async function writeReport(disks: boolean): Promise<void> {
  const file = join(ROOT, 'docs', 'drill.md');
  writeFileSync(
    file,
    await format(report(kept, FAULTS, disks), { ...(await resolveConfig(file)), parser: 'markdown' }),
  );
}

async function main(): Promise<void> {
  const folder = placeFolder('drill');
  const nodes = ['node1', 'node2', 'node3'].map((name) => join(folder, name));
  for (const each of nodes) spawnSync('umount', [each], { stdio: 'ignore' });
  rmSync(folder, { recursive: true, force: true });
  const disks = nodes.map(ownDisk).every(Boolean);
  ensureCommands({ faketime: 'faketime' }, console.log);
  const wanted = values.faults?.split(',');
  const faults = FAULTS.filter(
    ({ name }) => (wanted === undefined || wanted.includes(name)) && (name !== 'disk full' || disks),
  );
  if (!disks) console.log('This account may not make disks: the full disk is left out.');
  const dist = join(folder, 'dist');
  build(ROOT, dist, console.log);
  const cluster = await startCluster(folder, ROOT, console.log);
  let right = true;
  try {
    const url = cluster.url(DATABASE);
    await createDatabase(url, true);
    const db = connect(url, 6);
    try {
      console.log(`Laying ${PEOPLE} people ...`);
      await layPeople(db, PEOPLE + FIRST);
      await db.raw("GRANT SELECT ON damaged_nodes TO checked@'127.0.0.1'");
      const without = await rows<{ name: string }>(
        db,
        `SELECT t.TABLE_NAME AS name FROM information_schema.TABLES t LEFT JOIN information_schema.TABLE_CONSTRAINTS c
           ON c.TABLE_SCHEMA = t.TABLE_SCHEMA AND c.TABLE_NAME = t.TABLE_NAME AND c.CONSTRAINT_TYPE = 'PRIMARY KEY'
         WHERE t.TABLE_SCHEMA = ? AND t.TABLE_TYPE = 'BASE TABLE' AND c.CONSTRAINT_NAME IS NULL`,
        [DATABASE],
      );
      if (without.length > 0)
        throw new Error(`Without a primary key: ${without.map(({ name }) => name).join(', ')}`);
      await db.raw("INSERT INTO `groups` (id, name, kind) VALUES (?, 'Everybody told', 'fixed')", [GROUP]);
      const people = Array.from({ length: PEOPLE }, (_, at) => FIRST + at);
      for (let at = 0; at < people.length; at += 2_000)
        await db('group_members').insert(
          people.slice(at, at + 2_000).map((person_id) => ({ group_id: GROUP, person_id })),
        );
      const cookies = await openSessions(db, people.slice(0, ANSWERS));
      const house = await startHouse(cluster, folder, dist, DATABASE);
      try {
        const first = kept.next;
        for (let at = first; at < first + ROUNDS; at++)
          for (const fault of faults) {
            const random = seeded(SEED * 1_000_003 + at * 101 + FAULTS.indexOf(fault));
            kept.begin(fault.name, at);
            const account = await round(house, db, {
              fault,
              round: at,
              random,
              groupId: GROUP,
              people,
              cookies,
            });
            kept.end(account);
            await writeReport(disks);
            right &&= isRight(account);
            console.log(`${isRight(account) ? 'right' : 'WRONG'} ${JSON.stringify(account)}`);
          }
      } finally {
        await house.stop();
      }
    } finally {
      await db.destroy();
    }
  } finally {
    await writeReport(disks);
    await cluster.stop();
    for (const each of nodes) spawnSync('umount', [each], { stdio: 'ignore' });
  }
  if (!right) process.exitCode = 1;
}

await main();
