import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Actor } from '../../src/core/rights/decide.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { bringIdentities, peopleLacking } from '../../src/server/identities/bringing.ts';
import { findPerson } from '../../src/server/identities/directory.ts';
import { addIdentity, directoryPage } from '../../src/server/identities/service.ts';
import { addPeople, coordinator, countOf, freshDatabase, refusal } from './world.ts';

let db: Database;
beforeAll(async () => {
  ({ db } = await freshDatabase('identities'));
});
afterAll(() => db.destroy());

const list = (...lines: [who: string, value: string][]) =>
  lines.map(([who, value], at) => ({ line: at + 2, who, value }));
const known = (system: string) => countOf(db, 'FROM identities WHERE in_system = ?', [system]);

describe('a list of what people are called in a system', () => {
  it('is looked at line by line, then brought in: who is found and whose name is nobody’s yet', async () => {
    const [one, two, three, left] = (await addPeople(db, 4)) as [number, number, number, number];
    const named = (id: number, name: string, mail: string) =>
      db('people').where({ id }).update({ name, mail });
    await named(one, 'Ida Orne', 'ida@seed.example');
    await named(two, 'Twin Name', 'two@seed.example');
    await named(three, 'Twin Name', 'three@seed.example');
    await named(left, 'Gone Away', 'gone@seed.example');
    await addIdentity(db, coordinator, left, { system: 'loans', value: 'g.away' });
    await addIdentity(db, coordinator, two, { system: 'loans', value: 't.wo' });
    await db('people').where({ id: left }).update({ standing: 'left' });
    const all = list(
      ['IDA@seed.example', ' I.Orne '],
      ['Ida Orne', '@i.orne'],
      ['ida@seed.example', 'i.orne2'],
      ['Twin Name', 'twin'],
      ['three@seed.example', 'T.WO'],
      ['two@seed.example', 't.wo'],
      ['three@seed.example', 'g.away'],
      ['three@seed.example', 'i.orne'],
      ['nobody@seed.example', 'n.n'],
      ['', 'x'],
      ['three@seed.example', '  '],
      ['three@seed.example', '@'],
      ['gone@seed.example', 'g.one'],
      ['three@seed.example', 'th.ree'],
    );
    const looked = await bringIdentities(db, coordinator, { system: 'loans', rows: all, keep: false });
    expect([looked.made, looked.there, looked.leftOut]).toEqual([3, 2, 9]);
    expect(looked.told.map(({ line, why }) => [line, why])).toEqual([
      [5, 'Several people are called so. Write a mail address.'],
      [6, 'That is Twin Name already.'],
      [8, 'That is Gone Away already.'],
      [9, 'Line 2 says that this is somebody else.'],
      [10, 'Nobody has this address or name.'],
      [11, 'It does not say who that is.'],
      [12, expect.stringMatching(/what they are called/) as string],
      [13, 'It says nothing.'],
      [14, 'Nobody has this address or name.'],
    ]);
    expect(await known('loans')).toBe(2);
    const kept = await bringIdentities(db, coordinator, { system: 'loans', rows: all, keep: true });
    expect(kept).toEqual(looked);
    expect(await known('loans')).toBe(5);
    expect(await findPerson(db, 'loans', 'I.ORNE2')).toEqual({ personId: one });
    const again = await bringIdentities(db, coordinator, { system: 'loans', rows: all, keep: true });
    expect([again.made, again.there]).toEqual([0, 5]);
    const [noted] = await rows<{ detail: string }>(
      db,
      "SELECT detail FROM audit WHERE action = 'bring in identities'",
    );
    expect(JSON.parse(noted!.detail)).toEqual({ system: 'loans', identities: 3 });
  });

  it('is brought in once where two do it at the same time, and only by whoever looks after people', async () => {
    const people = await addPeople(db, 60);
    for (const [at, id] of people.entries())
      await db('people')
        .where({ id })
        .update({ mail: `p${at}@kit.example` });
    const rowsOf = list(...people.map((_, at): [string, string] => [`p${at}@kit.example`, `kit-${at}`]));
    const bring = () => bringIdentities(db, coordinator, { system: 'kit', rows: rowsOf, keep: true });
    const both = await Promise.allSettled([bring(), bring()]);
    const made = both.map((each) => (each.status === 'fulfilled' ? each.value.made : 0));
    expect([...made].sort((a, b) => a - b)).toEqual([0, 60]);
    expect(await known('kit')).toBe(60);
    const editor: Actor = { ...coordinator, id: people[0]!, role: 'editor' };
    const told = await refusal(bringIdentities(db, editor, { system: 'kit', rows: rowsOf, keep: false }));
    expect(told.status).toBe(403);
  });

  it('leaves nobody who lacks one unseen, a page at a time', async () => {
    const { total, people } = await peopleLacking(db, coordinator, 'kit', 0);
    const here = await countOf(db, "FROM people WHERE standing <> 'left' AND linked_to IS NULL");
    expect(total).toBe(here - 60);
    expect(people.some(({ name }) => name === 'Ida Orne')).toBe(true);
    expect(people.some(({ name }) => name === 'Gone Away')).toBe(false);
    const none = await peopleLacking(db, coordinator, 'a system nobody knows', 50);
    expect([none.total, none.people.length]).toEqual([here, here - 50]);
    expect((await directoryPage(db, coordinator)).systems).toContainEqual({ system: 'kit', people: 60 });
  });
});
