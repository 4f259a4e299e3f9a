import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { freePort } from '../../scripts/house/ports.ts';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Actor } from '../../src/core/rights/decide.ts';
import type { FollowedSource } from '../../src/core/sheets/followingSchema.ts';
import type { SheetColumn } from '../../src/core/sheets/sheet.ts';
import { rows, transact, type Database } from '../../src/server/database/connection.ts';
import { readDueSheets } from '../../src/server/sheets/following/reading.ts';
import {
  followNothing,
  followSource,
  readSheetNow,
  tryFollowing,
} from '../../src/server/sheets/following/service.ts';
import { claimSource } from '../../src/server/sheets/following/store.ts';
import {
  addRecord,
  alterRecord,
  alterSheet,
  deleteRecord,
  makeSheet,
  recordHistory,
  sheetPage,
} from '../../src/server/sheets/service.ts';
import { sheetById } from '../../src/server/sheets/store.ts';
import { startRecordsStandIn } from '../../src/standins/records/server.ts';
import { actIn, field, putToWork, saidIn, says } from './automating.ts';
import { addPeople, coordinator, countOf, freshDatabase, SECRET, refusal } from './world.ts';

let db: Database;
const running: { stop: () => Promise<void> }[] = [];
beforeAll(async () => {
  ({ db } = await freshDatabase('followed_sheets'));
});
afterEach(async () => {
  await Promise.all(running.splice(0).map((each) => each.stop()));
});
afterAll(async () => {
  await db.destroy();
});

const NAMES = ['Number', 'From', 'State', 'Notes'];
const COLUMNS: SheetColumn[] = NAMES.map((name, at) => ({
  id: `c${at + 1}`,
  name,
  kind: 'text',
  unit: '',
  choices: [],
}));
let made = 0;
const sheet = (): Promise<number> =>
  makeSheet(db, coordinator, { name: `Followed ${++made}`, purpose: '', columns: COLUMNS, form: null });
const followed = (url: string, part: Partial<FollowedSource> = {}): FollowedSource => ({
  url,
  header: '',
  everyMinutes: 1,
  rows: '/consignments',
  key: '/id',
  gone: '',
  after: '',
  columns: { c1: '/id', c2: '/from', c3: '/state' },
  ...part,
});

/** The stand-in that keeps records, and a hand that changes them there. */
async function records() {
  const port = await freePort();
  running.push(await startRecordsStandIn(port));
  const origin = `http://127.0.0.1:${port}`;
  const post = (path: string, form: Record<string, string> = {}): Promise<unknown> =>
    fetch(`${origin}${path}`, { method: 'POST', redirect: 'manual', body: new URLSearchParams(form) });
  return {
    url: `${origin}/tables/consignments`,
    asking: { secret: SECRET, inside: [origin] },
    put: (id: string, values: Record<string, string>) => post('/rows', { id, ...values }),
    takeOut: (id: string) => post('/rows', { id, gone: 'yes' }),
    mood: (name: string) => post(`/mood/${name}`),
  };
}
/** An address that answers what it is told to, and counts how it was asked. */
async function answering(answer: () => { status?: number; body: string; etag?: string }) {
  const asked: (string | undefined)[] = [];
  const server: Server = createServer((request, response) => {
    const { status = 200, body, etag } = answer();
    const known = request.headers['if-none-match'];
    asked.push(known);
    if (etag !== undefined && known === etag) response.writeHead(304).end();
    else response.writeHead(status, etag === undefined ? {} : { etag }).end(body);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  running.push({ stop: () => new Promise((resolve) => void server.close(() => resolve())) });
  const origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return { url: `${origin}/`, asked, asking: { secret: SECRET, inside: [origin] } };
}
const begin = (id: number, source: FollowedSource, asking: { secret: string; inside: string[] }) =>
  followSource(db, coordinator, id, { source, secret: '', revision: null }, asking);
/** Reads whatever is due, as an engine does, as if its time had come. */
async function readNow(asking: { secret: string; inside: string[] }): Promise<void> {
  await db.raw('UPDATE sheet_sources SET try_at = NOW(3)');
  await readDueSheets(db, asking, (error) => {
    throw error;
  });
}
const cellsIn = async (id: number): Promise<Record<string, Record<string, string>>> =>
  Object.fromEntries(
    (await sheetPage(db, coordinator, id)).records.map(({ cells }) => [cells.c1 ?? '', cells]),
  );
const recordOf = async (id: number, number: string) =>
  (await sheetPage(db, coordinator, id)).records.find((each) => each.cells.c1 === number)!;

describe('a sheet that follows a source', () => {
  it('has its records, and what is changed, added and taken out there is so here, as events that automations hear', async () => {
    const there = await records();
    const id = await sheet();
    const work = await putToWork(
      db,
      { kind: 'changes', sheetId: id, column: 'c3' },
      {
        content: says(
          '{Number|One} moved',
          field('record.c1', 'It'),
          ' is ',
          field('record.c3', 'elsewhere'),
        ),
        tell: {
          to: { kind: 'audience', audience: { kind: 'person', id: coordinator.id } },
          boards: [],
          outside: [],
          boardField: null,
          mail: false,
          otherwise: null,
        },
      },
    );
    expect(await begin(id, followed(there.url), there.asking)).toEqual({ trouble: null });
    expect(Object.keys(await cellsIn(id)).sort()).toEqual(['C-1041', 'C-1042', 'C-1043', 'C-1044']);
    await there.put('C-1041', { from: 'Sant Elm', state: 'on the way' });
    await there.put('C-2000', { from: 'Oru Terrace', state: 'packed' });
    await there.takeOut('C-1044');
    await readNow(there.asking);
    const after = await cellsIn(id);
    expect(Object.keys(after).sort()).toEqual(['C-1041', 'C-1042', 'C-1043', 'C-2000']);
    expect(after['C-1041']).toMatchObject({ c3: 'on the way' });
    await actIn(db);
    expect((await saidIn(db, work)).map((said) => said.title)).toEqual(['C-1041 moved']);
    const [change] = await recordHistory(db, coordinator, id, (await recordOf(id, 'C-1041')).id, 'UTC');
    expect(change).toMatchObject({
      by: null,
      changes: [{ column: 'State', from: 'packed', to: 'on the way' }],
    });
  });

  it('keeps what is written here beside what comes from there, which is changed and taken out there alone', async () => {
    const there = await records();
    const id = await sheet();
    await begin(id, followed(there.url), there.asking);
    const { id: record } = await recordOf(id, 'C-1042');
    await alterRecord(db, coordinator, id, record, { c4: 'Ask Ines' });
    const wrong = await refusal(alterRecord(db, coordinator, id, record, { c3: 'lost' }));
    expect([wrong.status, wrong.errors.map((each) => each.field)]).toEqual([409, ['c3']]);
    expect((await refusal(deleteRecord(db, coordinator, id, record))).status).toBe(409);
    const own = await addRecord(db, coordinator, id, { c1: 'Ours' });
    await there.put('C-1042', { from: 'Cinder Bay', state: 'arrived' });
    await readNow(there.asking);
    expect((await cellsIn(id))['C-1042']).toMatchObject({ c3: 'arrived', c4: 'Ask Ines' });
    await deleteRecord(db, coordinator, id, own);
    await followNothing(db, coordinator, id);
    expect((await sheetPage(db, coordinator, id)).following).toBeNull();
    await alterRecord(db, coordinator, id, record, { c3: 'lost' });
    await readNow(there.asking);
    expect((await cellsIn(id))['C-1042']).toMatchObject({ c3: 'lost' });
  });

  it('is read from a position where the source tells what changed after it, and takes out only what it says is gone', async () => {
    const there = await records();
    const id = await sheet();
    const source = followed(`${there.url}?after={after}`, { after: '/position', gone: '/gone' });
    await begin(id, source, there.asking);
    expect(Object.keys(await cellsIn(id))).toHaveLength(4);
    await there.takeOut('C-1041');
    await there.put('C-1042', { from: 'Cinder Bay', state: 'lost' });
    await readNow(there.asking);
    const after = await cellsIn(id);
    expect([Object.keys(after).sort(), after['C-1042']?.c3]).toEqual([
      ['C-1042', 'C-1043', 'C-1044'],
      'lost',
    ]);
    const [read] = await rows<{ position: string }>(
      db,
      'SELECT position FROM sheet_sources WHERE sheet_id = ?',
      [id],
    );
    expect(read?.position).toBe('6');
  });

  it('is read once by two engines, not again where nothing changed, and each record is there once', async () => {
    let body = { consignments: [{ id: 1, from: 'a', state: 'x' }] };
    const there = await answering(() => ({
      body: JSON.stringify(body),
      etag: `"${JSON.stringify(body).length}"`,
    }));
    const id = await sheet();
    await begin(id, followed(there.url), there.asking);
    const changed = async (): Promise<number> => (await recordOf(id, '1')).changedMs;
    const before = await changed();
    await readNow(there.asking);
    expect([there.asked.length, there.asked[1]]).toEqual([2, there.asked[1]]);
    expect(there.asked[1]).toBeDefined();
    expect(await changed()).toBe(before);
    // Asked for by somebody, it is read anew.
    await readSheetNow(db, coordinator, id, false, there.asking);
    expect(there.asked.at(-1)).toBeUndefined();
    body = { consignments: [...body.consignments, { id: 2, from: 'bb', state: 'y' }] };
    await db.raw('UPDATE sheet_sources SET try_at = NOW(3) WHERE sheet_id = ?', [id]);
    const failed = (error: unknown): never => {
      throw error;
    };
    const read = await Promise.all([
      readDueSheets(db, there.asking, failed),
      readDueSheets(db, there.asking, failed),
    ]);
    expect(read.sort()).toEqual([0, 1]);
    expect(Object.keys(await cellsIn(id)).sort()).toEqual(['1', '2']);
    // Claimed, it is nobody else's to read.
    await db.raw('UPDATE sheet_sources SET try_at = NOW(3) WHERE sheet_id = ?', [id]);
    expect((await transact(db, (trx) => claimSource(trx)))?.sheetId).toBe(id);
    expect(await transact(db, (trx) => claimSource(trx))).toBeUndefined();
  });

  it('says what is wrong with its source, keeps its records meanwhile, and is tried again after growing waits', async () => {
    let answer: { status?: number; body: string } = {
      body: JSON.stringify({ consignments: Array.from({ length: 30 }, (_, n) => ({ id: n + 1 })) }),
    };
    const there = await answering(() => answer);
    const id = await sheet();
    await begin(id, followed(there.url), there.asking);
    const trouble = async (): Promise<string | null> => {
      await readNow(there.asking);
      const page = await sheetPage(db, coordinator, id);
      expect(page.total).toBe(30);
      return page.following?.trouble ?? null;
    };
    answer = { status: 503, body: '' };
    expect(await trouble()).toBe('It answers 503.');
    answer = { body: '<html>' };
    expect(await trouble()).toBe('It answers something that is no JSON.');
    answer = { body: '{"consignments": {}}' };
    expect(await trouble()).toMatch(/no list of rows/);
    const waits = await rows<{ minutes: number }>(
      db,
      'SELECT ROUND(TIMESTAMPDIFF(SECOND, NOW(3), try_at) / 60) AS minutes FROM sheet_sources WHERE sheet_id = ?',
      [id],
    );
    expect(Number(waits[0]?.minutes)).toBeGreaterThan(1);
    // Most of it gone at once is looked at by somebody first.
    answer = { body: '{"consignments": [{"id": 1}]}' };
    expect(await trouble()).toMatch(/take out 29 records of 30/);
    expect(await readSheetNow(db, coordinator, id, false, there.asking)).toMatchObject({
      trouble: expect.stringMatching(/take out/) as string,
    });
    expect(await readSheetNow(db, coordinator, id, true, there.asking)).toEqual({ trouble: null });
    expect((await sheetPage(db, coordinator, id)).total).toBe(1);
    // Nothing on the internal network is asked that is not listed.
    expect(await readSheetNow(db, coordinator, id, true, { secret: SECRET, inside: [] })).toMatchObject({
      trouble: expect.stringMatching(/on the internal network/) as string,
    });
  });

  it('is looked at before it is followed, sends its secret to that origin alone, and is for coordinators', async () => {
    const seen: (string | undefined)[] = [];
    const server = createServer((request, response) => {
      seen.push(request.headers['x-key'] as string | undefined);
      response.writeHead(200).end('{"consignments": [{"id": 1, "from": "x"}]}');
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    running.push({ stop: () => new Promise((resolve) => void server.close(() => resolve())) });
    const port = (server.address() as AddressInfo).port;
    const [one, other] = [`http://127.0.0.1:${port}`, `http://localhost:${port}`];
    const asking = { secret: SECRET, inside: [one, other] };
    const id = await sheet();
    const looked = await tryFollowing(
      db,
      coordinator,
      id,
      { url: one, header: 'x-key', secret: 's3' },
      asking,
    );
    expect(looked.lists).toMatchObject([{ pointer: '/consignments', rows: 1 }]);
    const source = followed(one, { header: 'x-key' });
    await followSource(db, coordinator, id, { source, secret: 's3', revision: null }, asking);
    await tryFollowing(db, coordinator, id, { url: one, header: 'x-key', secret: '' }, asking);
    await tryFollowing(db, coordinator, id, { url: other, header: 'x-key', secret: '' }, asking);
    expect(seen).toEqual(['s3', 's3', 's3', undefined]);
    expect(JSON.stringify(await sheetPage(db, coordinator, id))).not.toContain('s3');
    // Over the revision that was seen, and to another origin without the secret of this one.
    const next = { source: { ...source, url: other }, secret: '', revision: 1 };
    await followSource(db, coordinator, id, next, asking);
    expect(seen.at(-1)).toBeUndefined();
    expect((await refusal(followSource(db, coordinator, id, next, asking))).status).toBe(409);
    const gone = { ...next, revision: 2, source: { ...source, columns: { c9: '/x' } } };
    expect((await refusal(followSource(db, coordinator, id, gone, asking))).errors[0]?.field).toBe('columns');
    const [editorId = 0] = await addPeople(db, 1);
    const editor: Actor = { id: editorId, role: 'editor', moderates: new Set(), mayReach: new Set() };
    expect((await refusal(readSheetNow(db, editor, id, false, asking))).status).toBe(403);
  });

  it('has no column that is filled from there and calculated here, follows one source, and is left as it is by another', async () => {
    const there = await records();
    const id = await sheet();
    expect((await refusal(readSheetNow(db, coordinator, id, false, there.asking))).message).toBe(
      'It follows nothing.',
    );
    const both = await Promise.allSettled([
      begin(id, followed(there.url), there.asking),
      begin(id, followed(there.url), there.asking),
    ]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    const { revision } = (await sheetById(db, id))!;
    const formula = (at: string) =>
      COLUMNS.map((each) => (each.id === at ? { ...each, kind: 'number' as const, formula: '1 + 1' } : each));
    const shape = (columns: SheetColumn[]) => ({
      name: `Followed ${made}`,
      purpose: '',
      form: null,
      columns,
    });
    const calculated = await refusal(
      alterSheet(db, coordinator, id, { revision, shape: shape(formula('c3')) }),
    );
    expect([calculated.status, calculated.message]).toEqual([
      422,
      expect.stringMatching(/filled from the source cannot be calculated/),
    ]);
    // One that is not filled from there may be; and is not to be filled from there then.
    await alterSheet(db, coordinator, id, { revision, shape: shape(formula('c4')) });
    const source = followed(there.url, { columns: { c1: '/id', c4: '/from' } });
    const filled = await refusal(
      followSource(db, coordinator, id, { source, secret: '', revision: 1 }, there.asking),
    );
    expect([filled.errors[0]?.field, filled.message]).toEqual([
      'columns',
      'Notes is calculated. Let something else be filled from the source.',
    ]);
    await followNothing(db, coordinator, id);
    await followNothing(db, coordinator, id);
    expect(await countOf(db, "FROM audit WHERE action = 'follow no more' AND subject_id = ?", [id])).toBe(1);
  });

  it('is looked at with the places its answer may go on from; what is no list of rows is told at its address', async () => {
    const bodies = [
      '{"at/once": "k7", "n": 3, "rows": [{"id": 1}]}',
      '{"rows": "none"}',
      '[1, 2]',
      'no JSON',
      '',
    ];
    const there = await answering(() => ({ body: bodies[0] ?? '' }));
    const id = await sheet();
    const look = () =>
      tryFollowing(
        db,
        coordinator,
        id,
        { url: `${there.url}?since={after}`, header: '', secret: '' },
        there.asking,
      );
    expect((await look()).positions).toEqual([
      { pointer: '/at~1once', sample: 'k7' },
      { pointer: '/n', sample: '3' },
    ]);
    for (bodies.shift(); bodies.length > 0; bodies.shift()) {
      const wrong = await refusal(look());
      expect([bodies[0], wrong.status, wrong.errors[0]?.field]).toEqual([bodies[0], 422, 'url']);
    }
  });
});
