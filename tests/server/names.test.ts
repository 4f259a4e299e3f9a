import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fieldValue } from '../../src/core/content/field.ts';
import { rawRecord } from '../../src/core/imports/record.ts';
import { greetingOf, sortedAs, sortNameOf } from '../../src/core/people/names.ts';
import { ownDetailsSchema } from '../../src/core/people/person.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { Around } from '../../src/server/automations/around.ts';
import { personRows } from '../../src/server/automations/personRows.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { groupMembers } from '../../src/server/groups/making.ts';
import { applyImport, undoImport } from '../../src/server/imports/apply.ts';
import { addRows, beginImport, compareImport } from '../../src/server/imports/service.ts';
import { peopleCsv } from '../../src/server/people/exporting.ts';
import { ownDetails, sayOwnDetails } from '../../src/server/people/own.ts';
import { alterPerson, countListedPeople, listPeople } from '../../src/server/people/service.ts';
import { personById, readerById } from '../../src/server/people/store.ts';
import { addGroup, addPeople, coordinator, freshDatabase } from './world.ts';

let db: Database;
let ids: number[];
beforeAll(async () => {
  ({ db } = await freshDatabase('names'));
  ids = await addPeople(db, 130);
});
afterAll(() => db.destroy());

const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });

describe('a name to sort by', () => {
  it('puts people in order in the directory and in groups, over pages, each once', async () => {
    const [first = 0, second = 0] = ids.slice(1);
    await alterPerson(db, coordinator, first, { sortName: 'Zz, Last' });
    await alterPerson(db, coordinator, second, { sortName: 'Aa, First' });
    const order: number[] = [];
    while (order.length < (await countListedPeople(db, coordinator, {}))) {
      const page = await listPeople(db, coordinator, { from: order.length });
      order.push(...page.people.map((person) => person.id));
    }
    expect([order[0], order.at(-1)]).toEqual([second, first]);
    expect(new Set(order).size).toBe(order.length);
    expect(order).toEqual(expect.arrayContaining(ids));
    const group = await addGroup(db, 'All of them', order);
    const inGroup: number[] = [];
    for (let after: { name: string; id: number } | null = null, more = true; more;) {
      const page: Awaited<ReturnType<typeof groupMembers>> = await groupMembers(
        db,
        coordinator,
        group,
        after,
      );
      inGroup.push(...page.members.map((person) => person.id));
      after = page.next;
      more = after !== null;
    }
    expect(inGroup).toEqual(order);
  });

  it('comes from the two parts of a name in a list, and is taken back with it', async () => {
    const [id = 0] = ids.slice(5);
    const before = await personById(db, id);
    const raw = rawRecord(
      ['Odessa', 'Quill', before?.mail ?? '', 'Dessie'],
      ['given', 'family', 'mail', 'greeting'],
      1,
    );
    const list = await beginImport(db, coordinator, {
      fileName: 'list.csv',
      columns: {},
      dateOrder: 'day first',
    });
    await addRows(db, coordinator, list, [{ ...raw, name: before?.name ?? '' }]);
    const { digest } = await compareImport(db, coordinator, list);
    await applyImport(db, coordinator, list, digest);
    expect(await personById(db, id)).toMatchObject({ sortName: 'Quill, Odessa', greeting: 'Dessie' });
    expect(await new Response(await peopleCsv(db, coordinator)).text()).toContain('"Quill, Odessa",Dessie');
    await undoImport(db, coordinator, list);
    expect(await personById(db, id)).toEqual(before);
  });
});

describe('how somebody is greeted', () => {
  it('is theirs to say, goes before the first word of the name, and holds wherever they are greeted', async () => {
    const [id = 0] = ids.slice(7);
    await db('people').where({ id }).update({ name: 'Nguyen Thi Lan' });
    const said = { greeting: 'Lan', zone: 'Asia/Ho_Chi_Minh' };
    expect((await readerById(db, id)) && fieldValue('first name', (await readerById(db, id))!)).toBe(
      'Nguyen',
    );
    await sayOwnDetails(db, member(id), said);
    await sayOwnDetails(db, member(id), said);
    expect(await ownDetails(db, member(id))).toEqual(said);
    expect(fieldValue('first name', (await readerById(db, id))!)).toBe('Lan');
    const [row] = await personRows(
      new Around(db),
      [id],
      'A group',
      { kind: 'joins', groupId: 1 } as never,
      0,
    );
    expect(row?.values.get('person.first name')).toBe('Lan');
    const audit = await db('audit').where({ subject: 'person', subject_id: id, action: 'change person' });
    expect(audit).toHaveLength(1);
  });

  it('is refused where it is too long or the zone is none, with the field', () => {
    const fields = (given: unknown) =>
      ownDetailsSchema.safeParse(given).error?.issues.map(({ path }) => path);
    expect(fields({ greeting: 'x'.repeat(81), zone: 'UTC' })).toEqual([['greeting']]);
    expect(fields({ greeting: '', zone: 'Moon/Base' })).toEqual([['zone']]);
  });

  it('is never more than there is, and a whole sort name needs both parts', () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), (name, other) => {
        expect(name).toContain(greetingOf({ name, greeting: '' }));
        expect(sortedAs({ name, sortName: other })).toBe(other === '' ? name : other);
        expect(sortNameOf(name, '')).toBe('');
      }),
    );
  });
});
