import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { change, type Database } from '../../src/server/database/connection.ts';
import { lookUp, SourceError, valuesOf } from '../../src/server/sources/asking.ts';
import { forgetAnswers, insertSource, sourceById } from '../../src/server/sources/store.ts';
import { countOf, freshDatabase } from './world.ts';

let db: Database;
let server: Server;
let origin = '';
let asked: string[] = [];
let answers: (path: string) => { status: number; body: string };

beforeAll(async () => {
  ({ db } = await freshDatabase('sourceanswers'));
  server = createServer((request, response) => {
    asked.push(request.url ?? '');
    const { status, body } = answers(request.url ?? '');
    response.writeHead(status, { 'content-type': 'application/json' }).end(body);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(async () => {
  await new Promise((resolve) => server.close(resolve));
  await db.destroy();
});
beforeEach(() => {
  asked = [];
  let level = 0;
  answers = () => ({ status: 200, body: JSON.stringify({ river: { level: ++level } }) });
});

let made = 0;
const source = async (keepMinutes: number): Promise<number> =>
  insertSource(
    db,
    {
      name: `River ${++made}`,
      url: `${origin}/at?place={place}`,
      header: '',
      fields: [{ name: 'level', pointer: '/river/level', kind: 'number', unit: 'm' }],
      keepMinutes,
    },
    null,
    1,
  );

/** What is found for some places: the level, or why there is none. */
async function levels(sourceId: number, ...places: string[]): Promise<string[]> {
  const found = await lookUp(
    db,
    (await sourceById(db, sourceId))!,
    places.map((place) => new Map([['place', place]])),
    { secret: 'x'.repeat(32), inside: [origin] },
  );
  return found.map((each) => (each instanceof SourceError ? each.message : (each.get('found.level') ?? '')));
}

describe('what a source answered', () => {
  it('is kept as long as the source says, for the same question to the same source alone', async () => {
    const id = await source(30);
    const first = await levels(id, 'North', 'North');
    expect(new Set(first).size).toBe(1);
    expect(await levels(id, 'North')).toEqual([first[0]]);
    expect(asked).toEqual(['/at?place=North']);
    const [south] = await levels(id, 'South');
    expect(south).not.toBe(first[0]);
    // Another source that asks the same address has its own answers: it may ask with another secret.
    await levels(await source(30), 'North');
    expect(asked).toEqual(['/at?place=North', '/at?place=South', '/at?place=North']);
    await change(
      db,
      'UPDATE source_answers SET answered_at = NOW(3) - INTERVAL 31 MINUTE WHERE source_id = ?',
      [id],
    );
    const [again] = await levels(id, 'North');
    expect(again).not.toBe(first[0]);
    // The new answer stands in the place of the old one.
    expect(await levels(id, 'North')).toEqual([again]);
    expect(asked).toHaveLength(4);
  });

  it('is asked for each time where nothing is kept', async () => {
    const id = await source(0);
    await levels(id, 'North');
    await levels(id, 'North');
    expect(asked).toHaveLength(2);
    expect(await countOf(db, 'FROM source_answers WHERE source_id = ?', [id])).toBe(0);
  });

  it('is tried again where it fails, which is not kept; nobody is asked where something to ask with is missing', async () => {
    const id = await source(30);
    const whole = answers;
    answers = (path) => (asked.length < 3 ? { status: 503, body: '' } : whole(path));
    expect(await levels(id, 'North', '')).toEqual(['1', expect.any(String)]);
    expect(asked).toEqual(Array(3).fill('/at?place=North'));
    answers = () => ({ status: 404, body: '{}' });
    const [refused] = await levels(id, 'West');
    expect(refused).toMatch(/404/);
    answers = () => ({ status: 200, body: '<html>' });
    expect((await levels(id, 'West'))[0]).toMatch(/no JSON/);
    answers = whole;
    expect((await levels(id, 'West'))[0]).toMatch(/^\d+$/);
  });

  it('is forgotten after a day, whatever is asked', async () => {
    const id = await source(60);
    await levels(id, 'North', 'South');
    await change(
      db,
      'UPDATE source_answers SET answered_at = NOW(3) - INTERVAL 25 HOUR WHERE source_id = ? LIMIT 1',
      [id],
    );
    await forgetAnswers(db);
    expect(await countOf(db, 'FROM source_answers WHERE source_id = ?', [id])).toBe(1);
  });

  it('gives the values that are named, each of its kind; what is not there or is of no kind is empty', () => {
    const fields = [
      { name: 'level', pointer: '/river/level', kind: 'number' as const, unit: 'm' },
      { name: 'mark', pointer: '/a~1b/0', kind: 'text' as const, unit: '' },
      { name: 'open', pointer: '/open', kind: 'text' as const, unit: '' },
      { name: 'whole', pointer: '/river', kind: 'text' as const, unit: '' },
      { name: 'none', pointer: '/river/none/deep', kind: 'text' as const, unit: '' },
    ];
    const found = valuesOf({ fields }, { river: { level: 'high' }, 'a/b': ['first'], open: false });
    expect(Object.fromEntries(found)).toEqual({
      'found.level': '',
      'found.mark': 'first',
      'found.open': 'false',
      'found.whole': '',
      'found.none': '',
    });
    for (const answer of [null, 7, 'text', []])
      expect([...valuesOf({ fields }, answer).values()].join('')).toBe('');
  });
});
