import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Actor } from '../../src/core/rights/decide.ts';
import { readList } from '../../src/core/imports/reading.ts';
import { rawRecord, type RawRecord } from '../../src/core/imports/record.ts';
import type { ImportSummary } from '../../src/core/imports/import.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { applyImport, undoImport } from '../../src/server/imports/apply.ts';
import {
  addRows,
  beginImport,
  compareImport,
  chooseMarksLeft,
  decideClash,
  importLines,
  importMissing,
  rememberedColumns,
} from '../../src/server/imports/service.ts';
import { forgetImports } from '../../src/server/imports/store.ts';
import { peopleCards, peopleCsv } from '../../src/server/people/exporting.ts';
import { addPeople, coordinator, freshDatabase } from './world.ts';

let db: Database;
beforeAll(async () => {
  ({ db } = await freshDatabase('imports'));
});
afterAll(() => db.destroy());

async function bring(found: RawRecord[], marksLeft = false): Promise<ImportSummary> {
  const id = await beginImport(db, coordinator, {
    fileName: 'list.csv',
    columns: { 'E-Mail': 'mail' },
    dateOrder: 'day first',
  });
  await addRows(db, coordinator, id, found);
  await compareImport(db, coordinator, id);
  return chooseMarksLeft(db, coordinator, id, marksLeft);
}
const row = (line: number, name: string, part: Partial<RawRecord> = {}): RawRecord => ({
  line,
  name,
  ...part,
});
const named = (name: string) =>
  rows<{
    id: number;
    mail: string | null;
    standing: string;
    station: string | null;
    zone: string;
    occupation: string;
  }>(
    db,
    `SELECT p.id, p.mail, p.standing, s.name AS station, p.zone, p.occupation FROM people p
     LEFT JOIN stations s ON s.id = p.station_id WHERE p.name = ? ORDER BY p.id`,
    [name],
  );
const everybody = () =>
  rows(
    db,
    `SELECT p.id, p.name, p.sort_name, p.greeting, p.mail, p.standing, p.station_id, p.occupation, p.zone, p.joined_on,
       (SELECT GROUP_CONCAT(a.name, '=', a.value ORDER BY a.name) FROM person_attributes a WHERE a.person_id = p.id) AS attributes
     FROM people p ORDER BY p.id`,
  );
const text = async (stream: ReadableStream<Uint8Array>): Promise<string> => new Response(stream).text();

describe('a list that is brought in', () => {
  it('adds, changes, brings back and marks as left in one go, and undone leaves everything as it was', async () => {
    const [first = 0, second = 0, third = 0, gone = 0] = await addPeople(db, 12);
    await db('people').where({ id: gone }).update({ standing: 'left', left_at: '2026-01-01' });
    await db('sessions').insert({
      token_hash: Buffer.alloc(32, 7),
      person_id: third,
      expires_at: '2099-01-01',
    });
    const [one] = await rows<{ mail: string }>(db, 'SELECT mail FROM people WHERE id = ?', [first]);
    const [two] = await rows<{ mail: string }>(db, 'SELECT mail FROM people WHERE id = ?', [second]);
    const before = await everybody();
    const nameOf = (id: number): string => `Person ${String(id).padStart(5, '0')}`;
    const summary = await bring(
      [
        row(2, nameOf(first), { mail: two?.mail ?? '', occupation: 'baker' }),
        row(3, nameOf(second), { mail: one?.mail ?? '', attributes: { Licence: 'B' } }),
        row(4, nameOf(gone), { station: 'Mill' }),
        row(5, 'Nell Newcome', { mail: 'Nell@New.example', station: 'mill', joinedOn: '3/2/2026' }),
        row(6, '=HYPERLINK("x")', { station: 'South' }),
      ],
      true,
    );
    // Two who exchanged their addresses look like each other: whose row it is has to be said.
    expect(summary.counts).toEqual({ new: 2, changed: 2, returns: 1, same: 0, clash: 0, wrong: 0 });
    expect(summary).toMatchObject({ newStations: ['Mill'], missing: 9, marksLeft: true });
    expect((await importMissing(db, coordinator, summary.id, null)).people).toHaveLength(9);
    expect(await everybody()).toEqual(before);

    const applied = await applyImport(db, coordinator, summary.id, summary.digest);
    expect(applied.state).toBe('applied');
    expect(await named('Nell Newcome')).toMatchObject([
      { mail: 'nell@new.example', station: 'Mill', zone: 'UTC' },
    ]);
    // Without a zone of their own they read by their station's clock.
    expect(await named('=HYPERLINK("x")')).toMatchObject([{ zone: 'Pacific/Auckland' }]);
    expect(await rows(db, "SELECT id FROM people WHERE standing = 'left' ORDER BY id")).toHaveLength(9);
    expect(await rows(db, 'SELECT 1 FROM sessions')).toHaveLength(0);
    expect(await rows(db, "SELECT 1 FROM people WHERE id = 1 AND standing <> 'left'")).toHaveLength(1);
    const events = await rows<{ kind: string; n: number }>(
      db,
      "SELECT kind, COUNT(*) AS n FROM events WHERE kind LIKE 'person.%' GROUP BY kind ORDER BY kind",
    );
    expect(events).toEqual([
      { kind: 'person.added', n: 2 },
      { kind: 'person.changed', n: 2 },
      { kind: 'person.left', n: 9 },
      { kind: 'person.returned', n: 1 },
    ]);
    // Pressed again, it is not brought in twice.
    await expect(applyImport(db, coordinator, summary.id, summary.digest)).rejects.toMatchObject({
      status: 409,
    });

    const undone = await undoImport(db, coordinator, summary.id);
    expect(undone).toMatchObject({ removed: 2, markedLeft: 0, kept: 0 });
    expect(await everybody()).toEqual(before);
    await expect(undoImport(db, coordinator, summary.id)).rejects.toMatchObject({ status: 409 });
    expect(await rememberedColumns(db, coordinator)).toEqual({ email: 'mail' });
  });

  it('marks nobody as left whose row is there and cannot be used, or is not clear', async () => {
    await db('people').insert([
      { name: 'Two Alike', mail: 'alike1@x.example', zone: 'UTC', joined_on: '2020-01-01' },
      { name: 'Two Alike', mail: 'alike2@x.example', zone: 'UTC', joined_on: '2020-01-01' },
      { name: 'Bad Zone', mail: 'zone@x.example', zone: 'UTC', joined_on: '2020-01-01' },
    ]);
    const before = await everybody();
    for (const unclear of [
      row(2, 'Two Alike'),
      row(2, 'Bad Zone', { mail: 'zone@x.example', zone: 'Mars/Base' }),
    ]) {
      const made = await bring([row(1, 'Somebody New'), unclear], true);
      const [clash, wrong] = [made.counts.clash, made.counts.wrong];
      expect([clash, wrong].sort()).toEqual([0, 1]);
      const { lines } = await importLines(db, coordinator, made.id, wrong === 1 ? 'wrong' : 'clash', 0);
      expect(lines).toMatchObject([
        { line: 2, why: expect.stringMatching(/no time zone “Mars|2 people have this name/) as unknown },
      ]);
      await expect(applyImport(db, coordinator, made.id, made.digest)).rejects.toMatchObject({
        status: 409,
        message: expect.stringContaining('would be taken for missing') as unknown,
      });
      expect(await everybody()).toEqual(before);
      // Without marking anybody it is brought in, and that row is left out.
      const none = await chooseMarksLeft(db, coordinator, made.id, false);
      await applyImport(db, coordinator, none.id, none.digest);
      await undoImport(db, coordinator, none.id);
      expect(await everybody()).toEqual(before);
    }
    await db('people').whereIn('name', ['Two Alike', 'Bad Zone']).delete();
  });

  it('comes to what was agreed or to nothing: of two at once, the second is shown anew', async () => {
    const [a, b] = await Promise.all([
      bring([row(1, 'Twin One', { mail: 'twin@x.example' })]),
      bring([row(1, 'Twin One', { mail: 'twin@x.example' })]),
    ]);
    const tried = await Promise.allSettled([
      applyImport(db, coordinator, a.id, a.digest),
      applyImport(db, coordinator, b.id, b.digest),
    ]);
    expect(tried.map((each) => each.status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await named('Twin One')).toHaveLength(1);
    const [other] = tried.flatMap((each, at) => (each.status === 'rejected' ? [[a, b][at]] : []));
    const again = await compareImport(db, coordinator, other?.id ?? 0);
    expect(again.counts).toMatchObject({ new: 0, same: 1 });
  });

  it('undone, keeps what others changed since, and whom something has reached', async () => {
    await bring([row(1, 'Kit Keep', { mail: 'kit@x.example', occupation: 'smith' })]).then((made) =>
      applyImport(db, coordinator, made.id, made.digest),
    );
    const [kit] = await named('Kit Keep');
    const second = await bring([
      row(1, 'Kit Keep', { mail: 'kit@x.example', occupation: 'mason', zone: 'Europe/Oslo' }),
      row(2, 'Lou Late', { mail: 'lou@x.example' }),
    ]);
    await applyImport(db, coordinator, second.id, second.digest);
    await db('people')
      .where({ id: kit?.id ?? 0 })
      .update({ occupation: 'carver' });
    const [lou] = await named('Lou Late');
    await db('passwords').insert({ person_id: lou?.id ?? 0, hash: 'x' });
    expect(await undoImport(db, coordinator, second.id)).toEqual({
      removed: 0,
      markedLeft: 1,
      restored: 1,
      kept: 1,
    });
    expect(await named('Kit Keep')).toMatchObject([{ occupation: 'carver', zone: 'UTC' }]);
    expect(await named('Lou Late')).toMatchObject([{ standing: 'left' }]);
  });

  it('asks whose row it is where that is not sure, one by one or all alike', async () => {
    await addPeople(db, 1);
    await db('people').insert([
      { name: 'Pat Plain', mail: 'pat@x.example', zone: 'UTC', joined_on: '2020-01-01' },
      { name: 'Rae Round', mail: 'rae@x.example', zone: 'UTC', joined_on: '2020-01-01' },
    ]);
    const made = await bring([
      row(1, 'Pat Plain', { mail: 'pat@other.example' }),
      row(2, 'Rae Round', { mail: 'rae@other.example' }),
    ]);
    expect(made.counts.clash).toBe(2);
    const one = await decideClash(db, coordinator, made.id, 1, { decision: 'new person', all: false });
    expect(one.counts).toMatchObject({ clash: 1, new: 1 });
    const all = await decideClash(db, coordinator, made.id, 2, { decision: 'same person', all: true });
    expect(all.counts).toMatchObject({ clash: 0, new: 1, changed: 1 });
    await applyImport(db, coordinator, all.id, all.digest);
    expect(await named('Pat Plain')).toHaveLength(2);
    expect(await named('Rae Round')).toMatchObject([{ mail: 'rae@other.example' }]);
  });

  it('exported and brought in again changes nobody, as CSV and as cards', async () => {
    await db('person_attributes').insert({ person_id: 1, name: 'Licence', value: '=1+1' });
    for (const [kind, stream] of [
      ['CSV', await peopleCsv(db, coordinator)],
      ['vCard', await peopleCards(db, coordinator, 'https://bell.test')],
    ] as const) {
      const table = readList(new TextEncoder().encode(await text(stream)));
      expect(table.kind).toBe(kind);
      const columns = table.guess.map((column, at) =>
        column === 'nothing' ? (`attribute:${table.headings[at]}` as const) : column,
      );
      const found = table.rows.map(({ line, cells }) => rawRecord(cells, columns, line));
      const made = await bring(found);
      expect(made.counts).toMatchObject({ new: 0, changed: 0, clash: 0, wrong: 0 });
      expect(made.counts.same).toBeGreaterThan(10);
    }
  });

  it('is for coordinators, of whoever began it, and forgotten when it can no longer be undone', async () => {
    const editor: Actor = { ...coordinator, id: 2, role: 'editor' };
    await expect(
      beginImport(db, editor, { fileName: 'x', columns: {}, dateOrder: 'day first' }),
    ).rejects.toMatchObject({ status: 403 });
    await expect(peopleCsv(db, editor)).rejects.toMatchObject({ status: 403 });
    const id = await beginImport(db, coordinator, { fileName: 'x', columns: {}, dateOrder: 'day first' });
    await expect(addRows(db, { ...coordinator, id: 2 }, id, [row(1, 'A B')])).rejects.toMatchObject({
      status: 403,
    });
    await expect(compareImport(db, coordinator, id)).rejects.toMatchObject({ status: 422 });
    await db.raw(
      'UPDATE imports SET applied_at = applied_at - INTERVAL 2 DAY, made_at = made_at - INTERVAL 8 DAY',
    );
    const [late] = await rows<{ id: number }>(db, "SELECT id FROM imports WHERE state = 'applied' LIMIT 1");
    await expect(undoImport(db, coordinator, late?.id ?? 0)).rejects.toMatchObject({ status: 409 });
    await forgetImports(db, 24);
    expect(await rows(db, 'SELECT 1 FROM import_rows')).toHaveLength(0);
    expect(await rows(db, "SELECT 1 FROM imports WHERE state IN ('open', 'compared')")).toHaveLength(0);
  });
});
