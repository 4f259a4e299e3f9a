import { createHash, randomBytes } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { ZipArchive } from 'archiver';
import Papa from 'papaparse';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { createDatabase } from '../../scripts/house/mariadb.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { manifestSchema, type Manifest } from '../../src/core/organisation/manifest.ts';
import { connect, rows, transact, type Database } from '../../src/server/database/connection.ts';
import { migrate } from '../../src/server/database/migrate.ts';
import { zipStream } from '../../src/server/http/zip.ts';
import { bringIn, lookInto } from '../../src/server/organisation/bringingIn.ts';
import { LEFT_OUT, LEFT_OUT_COLUMNS } from '../../src/server/organisation/tables.ts';
import { organisationArchive } from '../../src/server/organisation/takingOut.ts';
import { insertInParts } from '../../src/server/uploads/store.ts';
import { unseal } from '../../src/server/sealing.ts';
import { coordinator, countOf, copiedDemo, SECRET } from './world.ts';
import { filesIn } from './zipFiles.ts';

const ORIGIN = 'https://desk.example';
const PASSWORD = 'four quiet green lamps';
let db: Database;
let maud = '';
let folder = '';
let path = '';
let files: Map<string, Buffer>;
let manifest: Manifest;
const large = randomBytes(2_300_000);

async function taken(of: Database, to: string, by: Actor = coordinator): Promise<void> {
  const { body } = await organisationArchive(of, by, ORIGIN);
  await pipeline(Readable.fromWeb(body as never), createWriteStream(to));
}
async function empty(name: string): Promise<Database> {
  const url = inject('databaseServer').replace('DATABASE', `clear_bell_test_${name}`);
  await createDatabase(url, true);
  const other = connect(url);
  await migrate(other);
  return other;
}
/** The archive with some of its files changed, added, or left out. */
async function altered(name: string, change: Record<string, string | Buffer | null>): Promise<string> {
  const to = join(folder, `${name}.zip`);
  const zip = new ZipArchive({});
  const through = pipeline(zip, createWriteStream(to));
  for (const [file, bytes] of new Map([...files, ...Object.entries(change)]))
    if (bytes !== null) zip.append(bytes, { name: file });
  await zip.finalize();
  await through;
  return to;
}
const withTable = (name: string, text: string): Record<string, string> => ({
  [`tables/${name}.jsonl`]: text,
  'manifest.json': JSON.stringify({
    ...manifest,
    tables: manifest.tables.map((table) =>
      table.name === name
        ? {
            ...table,
            rows: text.split('\n').filter(Boolean).length,
            sha256: createHash('sha256').update(text).digest('hex'),
          }
        : table,
    ),
  }),
});
const given = (atRest = false) => ({ mail: maud.toUpperCase(), password: PASSWORD, atRest });

beforeAll(async () => {
  ({ db } = await copiedDemo('organisation'));
  folder = await mkdtemp(join(tmpdir(), 'organisation-'));
  path = join(folder, 'whole.zip');
  await transact(db, (trx) =>
    insertInParts(
      trx,
      { key: 'L'.repeat(22), name: '../odd/../name?.bin', mime: 'application/octet-stream' },
      large,
      1,
    ),
  );
  await db('people').where({ name: 'Wren Ashdown' }).update({ relation: '', greeting: '🌱 "O’B"\\\n' });
  const [row] = await rows<{ mail: string }>(db, 'SELECT mail FROM people WHERE id = 1');
  maud = row?.mail ?? '';
  await taken(db, path);
  files = await filesIn(await readFile(path));
  manifest = manifestSchema.parse(JSON.parse(files.get('manifest.json')?.toString() ?? ''));
}, 240_000);
afterAll(async () => {
  await db.destroy();
  await rm(folder, { recursive: true });
});

describe('the whole of an organisation taken out', () => {
  it('holds every row of every table but those that are named with why not', async () => {
    const all = (await rows<Record<string, string>>(db, 'SHOW TABLES')).flatMap((row) => Object.values(row));
    const kept = manifest.tables.map((table) => table.name);
    expect([...kept, ...Object.keys(LEFT_OUT)].sort()).toEqual(all.sort());
    for (const { name, rows: n, file } of manifest.tables) {
      expect([name, n]).toEqual([name, await countOf(db, `FROM \`${name}\``)]);
      expect(files.get(file)?.toString().split('\n').filter(Boolean)).toHaveLength(n);
    }
    const named = new Set(manifest.leftOut.map(({ what }) => what));
    for (const [table, columns] of Object.entries(LEFT_OUT_COLUMNS))
      for (const column of Object.keys(columns)) expect(named).toContain(`${table}.${column}`);
    expect(manifest.uploads).toHaveLength(await countOf(db, 'FROM uploads'));
    const parts = manifest.uploads.find(({ key }) => key === 'L'.repeat(22));
    expect(files.get(parts?.file ?? '')?.equals(large)).toBe(true);
    expect(parts?.file).not.toContain('..');
  });

  it('holds nothing that proves who somebody is, and no secret', async () => {
    const text = [...files]
      .flatMap(([name, bytes]) => (name.startsWith('uploads/') ? [] : [bytes.toString()]))
      .join('\n');
    expect(text).not.toMatch(/\$argon2/);
    const [hook] = await rows<{ secret: Buffer }>(db, 'SELECT secret FROM hooks_in LIMIT 1');
    expect(text).not.toContain(unseal(SECRET, hook?.secret ?? Buffer.alloc(0)));
    const people = files.get('tables/people.jsonl')?.toString() ?? '';
    expect(people).not.toMatch(/calendar_key|news_key|sessions_key/);
  });

  it('is read by people and spreadsheets', async () => {
    const csv = (name: string) =>
      Papa.parse<Record<string, string>>(
        files.get(`readable/${name}.csv`)?.toString().replace('\ufeff', '') ?? '',
        {
          header: true,
          skipEmptyLines: true,
        },
      ).data;
    expect(csv('deliveries')).toHaveLength(await countOf(db, 'FROM deliveries'));
    expect(csv('answers')).toHaveLength(await countOf(db, 'FROM roll'));
    expect(csv('people').map((row) => row.Name)).toContain('Wren Ashdown');
    expect(files.get('readable/people.vcf')?.toString()).toMatch(/^BEGIN:VCARD\r\nVERSION:4.0/);
    const texts = [...files.keys()].filter((name) => name.startsWith('readable/boards/All stations/'));
    expect(texts.length).toBeGreaterThan(5);
    expect(files.get(texts[0] ?? '')?.toString()).toMatch(/^---\ntitle: ".+"\n/);
  });

  it('is for coordinators, one at a time, and given up in the middle without harm', async () => {
    await expect(
      organisationArchive(db, { ...coordinator, id: 5, role: 'editor' }, ORIGIN),
    ).rejects.toMatchObject({
      status: 403,
    });
    const { body } = await organisationArchive(db, coordinator, ORIGIN);
    await expect(organisationArchive(db, coordinator, ORIGIN)).rejects.toMatchObject({ status: 409 });
    const reader = body.getReader();
    expect((await reader.read()).done).toBe(false);
    await reader.cancel();
    await expect
      .poll(async () => {
        const again = await organisationArchive(db, coordinator, ORIGIN).catch(() => undefined);
        await again?.body.cancel();
        return again !== undefined;
      })
      .toBe(true);
  });
});

describe('a ZIP that is sent while it is written', () => {
  it('ends where nobody takes it, and gives back what it holds', async () => {
    let ended = 0;
    const done = (): Promise<void> => {
      ended += 1;
      return Promise.resolve();
    };
    const stream = zipStream(
      async (put) => {
        for (let n = 0; n < 50; n++) await put(`${n}`, Readable.from([randomBytes(1_000_000)]));
      },
      done,
      50,
    );
    await expect.poll(() => ended, { timeout: 20_000 }).toBe(1);
    await expect(new Response(stream).arrayBuffer()).rejects.toThrow();
  });
});

describe('an archive brought in', () => {
  it('gives the same organisation: taken out again, it is equal', async () => {
    const other = await empty('organisation_again');
    try {
      expect(await lookInto(other, path)).toMatchObject({
        people: await countOf(db, 'FROM people'),
        uploads: manifest.uploads.length,
      });
      const came = await bringIn(other, SECRET, path, given());
      expect(came).toHaveProperty('session');
      const to = join(folder, 'again.zip');
      await taken(other, to);
      const again = await filesIn(await readFile(to));
      const others = (name: string): boolean =>
        !['manifest.json', 'READ ME.txt', 'tables/audit.jsonl'].includes(name);
      expect([...again.keys()].sort()).toEqual([...files.keys()].sort());
      for (const name of [...files.keys()].filter(others))
        expect([name, again.get(name)?.equals(files.get(name) ?? Buffer.alloc(0))]).toEqual([name, true]);
      const trail = (from: Map<string, Buffer>): string[] =>
        from.get('tables/audit.jsonl')?.toString().split('\n') ?? [];
      expect(trail(again).slice(0, trail(files).length - 1)).toEqual(trail(files).slice(0, -1));
      // What it needs to work is made anew: other secrets, and nobody's password but the one that was given.
      expect(await countOf(other, 'FROM passwords')).toBe(1);
      const [hook] = await rows<{ secret: Buffer }>(other, 'SELECT secret FROM hooks_in LIMIT 1');
      expect(unseal(SECRET, hook?.secret ?? Buffer.alloc(0))).toMatch(/^whsec_.{32}$/);
      await expect(bringIn(other, SECRET, path, given())).rejects.toMatchObject({ status: 409 });
    } finally {
      await other.destroy();
    }
  }, 120_000);

  it('lays at rest what would speak by itself, and tells nobody anything twice', async () => {
    const other = await empty('organisation_rest');
    try {
      await bringIn(other, SECRET, path, given(true));
      for (const sql of [
        "FROM sends WHERE state = 'active' AND recurring",
        "FROM occurrences o JOIN sends s ON s.id = o.send_id WHERE o.state = 'scheduled' AND NOT s.recurring",
        "FROM buckets WHERE state IN ('planned', 'expanding')",
        "FROM automations WHERE state = 'on'",
        'FROM session_dates WHERE remind_at IS NOT NULL AND NOT reminded',
        "FROM hooks_out WHERE state = 'on'",
        "FROM deliveries WHERE state IN ('waiting', 'sending', 'resting')",
        "FROM notices WHERE mail_state IN ('waiting', 'daily', 'sending') OR push_state IN ('waiting', 'daily', 'bundled', 'sending')",
      ])
        expect([sql, await countOf(other, sql)]).toEqual([sql, 0]);
      expect(await countOf(db, "FROM automations WHERE state = 'on'")).toBeGreaterThan(0);
      expect(await countOf(other, "FROM deliveries WHERE state = 'delivered'")).toBe(
        await countOf(db, "FROM deliveries WHERE state = 'delivered'"),
      );
    } finally {
      await other.destroy();
    }
  }, 120_000);

  it('is brought in whole or not at all, with what is wrong in words', async () => {
    const other = await empty('organisation_wrong');
    const people = files.get('tables/people.jsonl')?.toString() ?? '';
    const upload = manifest.uploads[0]?.file ?? '';
    const wrong: [string, Record<string, string | Buffer | null>, RegExp][] = [
      ['changed', { 'tables/people.jsonl': people.replace('Wren', 'Wern') }, /people.jsonl was changed/],
      [
        'shorter',
        { 'tables/people.jsonl': people.split('\n').slice(1).join('\n') },
        /people.jsonl was changed/,
      ],
      ['lacking', { 'tables/people.jsonl': null }, /lacks tables\/people.jsonl/],
      ['no manifest', { 'manifest.json': null }, /lacks manifest.json/],
      ['no JSON', { 'manifest.json': '{' }, /no archive of an organisation/],
      [
        'another form',
        { 'manifest.json': JSON.stringify({ ...manifest, version: 2 }) },
        /Bring Clear Bell up to date/,
      ],
      ['newer', { 'manifest.json': JSON.stringify({ ...manifest, laidOut: '9999_x' }) }, /newer Clear Bell/],
      ['older', { 'manifest.json': JSON.stringify({ ...manifest, laidOut: '0001_x' }) }, /older Clear Bell/],
      ['another upload', { [upload]: Buffer.from('other') }, /was changed/],
      ['a row of nobody', withTable('stations', ''), /not whole: .+ stations/],
      [
        'a value of no kind',
        withTable('people', people.replace('"role":"coordinator"', '"role":"queen"')),
        /no archive/,
      ],
      ['no rows', withTable('people', '17\n'), /no archive/],
      [
        'another table',
        { 'manifest.json': JSON.stringify(manifest).replace('"name":"boards"', '"name":"passwords"') },
        /lacks the table boards/,
      ],
    ];
    try {
      for (const [name, change, words] of wrong) {
        const file = await altered(name.replaceAll(' ', '-'), change);
        await expect([name, bringIn(other, SECRET, file, given())][1], name).rejects.toThrow(words);
        expect([name, await countOf(other, 'FROM people'), await countOf(other, 'FROM uploads')]).toEqual([
          name,
          0,
          0,
        ]);
      }
      const text = join(folder, 'text.zip');
      await writeFile(text, 'PK not really');
      await expect(lookInto(other, text)).rejects.toMatchObject({ status: 422 });
      await expect(
        bringIn(other, SECRET, path, { ...given(), mail: 'nobody@x.example' }),
      ).rejects.toMatchObject({
        status: 422,
        errors: [{ field: 'mail' }],
      });
      await expect(
        bringIn(other, SECRET, path, { ...given(), password: 'password123' }),
      ).rejects.toMatchObject({
        status: 422,
      });
      expect(await countOf(other, 'FROM people')).toBe(0);
      // Two at once: one of them.
      const both = await Promise.allSettled([1, 2].map(() => bringIn(other, SECRET, path, given())));
      expect(both.map((each) => each.status).sort()).toEqual(['fulfilled', 'rejected']);
      expect(await countOf(other, 'FROM people')).toBe(await countOf(db, 'FROM people'));
    } finally {
      await other.destroy();
    }
  }, 180_000);
});
