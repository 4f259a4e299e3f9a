import { createHash, randomBytes } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { hostname, tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { backUp, restore } from '../../scripts/house/backups.ts';
import { createDatabase } from '../../scripts/house/mariadb.ts';
import { connect, rows, transact, type Database } from '../../src/server/database/connection.ts';
import { down } from '../../src/server/database/migrations/0040_calendar.ts';
import { addPeople, coordinator, countOf, freshDatabase } from './world.ts';
import { howItRuns } from '../../src/server/operating/service.ts';

let db: Database;
let url: string;
let again: string;
const folder = mkdtempSync(join(tmpdir(), 'backup-'));
const say = (): void => undefined;

/** What stands in every table, as the database adds it up. */
async function sums(of: string): Promise<Record<string, string>> {
  const other = connect(of, 2);
  try {
    const tables = (await rows<Record<string, string>>(other, 'SHOW TABLES')).flatMap((row) =>
      Object.values(row),
    );
    const found: Record<string, string> = {};
    for (const table of tables) {
      // Every value of every row. CHECKSUM TABLE would not do: it differs between equal tables that have a generated column.
      const all = (await rows<Record<string, unknown>>(other, `SELECT * FROM \`${table}\``)).map((row) =>
        JSON.stringify(row),
      );
      const sum = createHash('sha256').update(all.sort().join('\n')).digest('hex');
      found[table] = `${all.length} rows, ${sum}`;
    }
    return found;
  } finally {
    await other.destroy();
  }
}

beforeAll(async () => {
  ({ db, url } = await freshDatabase('backup'));
  again = url.replace('test_backup', 'test_backup_again');
  const people = await addPeople(db, 300);
  await db('people').where({ id: people[0]! }).update({ name: '🌱 O’Brien "\\" \n שלום' });
  await db('uploads').insert({
    upload_key: 'k'.repeat(22),
    uploaded_by: 1,
    name: 'every byte.bin',
    mime: 'application/octet-stream',
    bytes: Buffer.concat([Buffer.from(Array.from({ length: 256 }, (_, i) => i)), randomBytes(100_000)]),
  });
});
afterAll(async () => {
  await db.destroy();
  rmSync(folder, { recursive: true });
});

describe('a backup', () => {
  it('brought back is the same in every table, every byte of what was uploaded too, and readable by its owner alone', async () => {
    const before = await sums(url);
    const { file, bytes } = await backUp(url, { to: folder, say });
    expect(bytes).toBeGreaterThan(100_000);
    expect(statSync(file).mode & 0o077).toBe(0);
    await createDatabase(again, true);
    expect(await restore(again, { file, replace: false, say })).toEqual({ migrations: 0 });
    expect(await sums(again)).toEqual(before);
    const { backups } = await howItRuns(db, coordinator);
    expect(backups).toMatchObject([{ file, bytes, host: hostname() }]);
  });

  it('is of one instant, whatever is written meanwhile', async () => {
    const state = { going: true };
    let written = 0;
    const writing = (async () => {
      while (state.going) {
        await transact(db, async (trx) => {
          const [id] = await trx('groups').insert({ name: `While it goes ${written}`, kind: 'fixed' });
          await trx('group_members').insert({ group_id: id, person_id: 1 });
        });
        written++;
      }
    })();
    const { file } = await backUp(url, { to: folder, say, at: new Date(Date.now() + 60_000) });
    state.going = false;
    await writing;
    expect(written).toBeGreaterThan(0);
    await restore(again, { file, replace: true, say });
    const other = connect(again, 2);
    try {
      expect(
        await countOf(
          other,
          'FROM `groups` g WHERE NOT EXISTS (SELECT 1 FROM group_members m WHERE m.group_id = g.id)',
        ),
      ).toBe(0);
      expect(
        await countOf(
          other,
          'FROM group_members m WHERE NOT EXISTS (SELECT 1 FROM `groups` g WHERE g.id = m.group_id)',
        ),
      ).toBe(0);
    } finally {
      await other.destroy();
    }
  });

  it('of the version before is brought up to date with its data', async () => {
    const people = await countOf(db, 'FROM people');
    await down(db);
    await db('knex_migrations').where({ name: '0040_calendar' }).delete();
    const { file } = await backUp(url, { to: folder, say, at: new Date(Date.now() + 120_000) });
    expect(await restore(again, { file, replace: true, say })).toEqual({ migrations: 1 });
    const other = connect(again, 2);
    try {
      expect(await countOf(other, 'FROM people')).toBe(people);
      expect(await countOf(other, 'FROM calendar_sessions')).toBe(0);
    } finally {
      await other.destroy();
    }
  });

  it('that is cut off, damaged or missing is refused before anything is touched, and so is a database that holds something', async () => {
    const [name] = readdirSync(folder);
    const file = join(folder, name!);
    const before = await sums(again);
    const whole = readFileSync(file);
    const cut = join(folder, 'cut.sql.gz');
    writeFileSync(cut, whole.subarray(0, whole.length - 2_000));
    const damaged = join(folder, 'damaged.sql.gz');
    const bytes = Buffer.from(whole);
    bytes.writeUInt8((bytes.readUInt8(5_000) + 1) % 256, 5_000);
    writeFileSync(damaged, bytes);
    for (const [wrong, words] of [
      [cut, /not whole/],
      [damaged, /damaged/],
      [join(folder, 'none.sql.gz'), /There is no file/],
    ] as const)
      await expect(restore(again, { file: wrong, replace: true, say })).rejects.toThrow(words);
    await expect(restore(again, { file, replace: false, say })).rejects.toThrow(/something in this database/);
    expect(await sums(again)).toEqual(before);
  });

  it('keeps the latest of a folder and leaves other files alone; a database that is not there leaves none', async () => {
    const { file } = await backUp(url, { to: folder, keep: 2, say, at: new Date(Date.now() + 180_000) });
    const left = readdirSync(folder).sort();
    expect(left.filter((each) => each.startsWith('clear-bell-'))).toHaveLength(2);
    expect(left).toContain(file.slice(folder.length + 1));
    expect(left).toContain('cut.sql.gz');
    await expect(backUp(url.replace('test_backup', 'test_nowhere'), { to: folder, say })).rejects.toThrow(
      /could not be read/,
    );
    expect(readdirSync(folder).sort()).toEqual(left);
  });
});
