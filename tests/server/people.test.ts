import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newPersonSchema } from '../../src/core/people/person.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import {
  addPerson,
  alterPerson,
  changeStanding,
  countListedPeople,
  idsOfListed,
  listPeople,
  stationsInUse,
} from '../../src/server/people/service.ts';
import { groupPage } from '../../src/server/groups/making.ts';
import { doTogether } from '../../src/server/people/together.ts';
import {
  alterStation,
  deleteStation,
  makeStation,
  mergeStation,
  retireStation,
} from '../../src/server/people/stationService.ts';
import { invite, openLetter } from '../../src/server/access/service.ts';
import { accessToken } from '../../src/server/access/link.ts';
import { briefOf } from '../../src/core/sends/forecast.ts';
import { forecast } from '../../src/server/sends/forecast.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  countOf,
  freshDatabase,
  plan,
  toGroups,
  content,
} from './world.ts';

let db: Database;
const member: Actor = { ...coordinator, id: 5, role: 'member' };

beforeAll(async () => {
  ({ db } = await freshDatabase('people'));
  await addPeople(db, 120);
  await db('people').insert([
    {
      name: '100% Šárka_O’Neil',
      mail: 'sarka@test.example',
      zone: 'UTC',
      joined_on: '2020-01-01',
      station_id: 2,
    },
    { name: 'ليلى', mail: null, zone: 'UTC', joined_on: '2020-01-01' },
  ]);
});
afterAll(() => db.destroy());

describe('the directory', () => {
  it('comes page by page, each person once, in order', async () => {
    const names: string[] = [];
    while (names.length < (await countListedPeople(db, coordinator, {}))) {
      const page = await listPeople(db, coordinator, { from: names.length });
      names.push(...page.people.map((person) => person.name));
    }
    expect(names).toHaveLength(123);
    expect(new Set(names).size).toBe(123);
    const turned = await listPeople(db, coordinator, { turned: true });
    expect(turned.people.map((person) => person.name)).toEqual(names.slice(-50).reverse());
  });

  it('finds by name, mail address and station, and takes marks of the search language as letters', async () => {
    const find = async (search: string): Promise<string[]> =>
      (await listPeople(db, coordinator, { search })).people.map((person) => person.name);
    expect(await find('sarka@')).toEqual(['100% Šárka_O’Neil']);
    expect(await find('0% Š')).toEqual(['100% Šárka_O’Neil']);
    expect(await find('sarka_o')).toEqual(['100% Šárka_O’Neil']);
    expect(await find('ليلى')).toEqual(['ليلى']);
    expect(await find('South')).toEqual(['100% Šárka_O’Neil']);
    expect(await find('%%%')).toEqual([]);
    await expect(listPeople(db, member, {})).rejects.toMatchObject({ status: 403 });
  });
});

describe('adding and leaving', () => {
  const newcomer = { name: 'Jago Thorne', mail: 'jago@test.example', role: 'member' as const, stationId: 2 };

  it('counts at once in what has not gone out', async () => {
    const south = await addGroup(db, 'South', { kind: 'station', id: 2 });
    const reached = async (): Promise<number> =>
      (await forecast(db, coordinator, plan({ audience: toGroups([south]) }), briefOf(content()))).people;
    const before = await reached();
    const id = await addPerson(db, coordinator, newcomer, 'UTC');
    expect(await reached()).toBe(before + 1);
    // The zone is the station's.
    expect(await countOf(db, "FROM people WHERE id = ? AND zone = 'Pacific/Auckland'", [id])).toBe(1);
    await changeStanding(db, coordinator, id, true);
    await changeStanding(db, coordinator, id, true);
    expect(await reached()).toBe(before);
    await changeStanding(db, coordinator, id, false);
    expect(await reached()).toBe(before + 1);
    expect(await countOf(db, "FROM audit WHERE subject = 'person' AND subject_id = ?", [id])).toBe(3);
  });

  it('refuses what cannot be, with the field and the remedy', async () => {
    await expect(
      addPerson(db, coordinator, { ...newcomer, mail: 'SARKA@test.example' }, 'UTC'),
    ).rejects.toMatchObject({
      status: 422,
      errors: [{ field: 'mail' }],
    });
    await expect(
      addPerson(db, coordinator, { ...newcomer, mail: null, stationId: 77 }, 'UTC'),
    ).rejects.toMatchObject({
      errors: [{ field: 'stationId' }],
    });
    await expect(addPerson(db, member, newcomer, 'UTC')).rejects.toMatchObject({ status: 403 });
    await expect(changeStanding(db, coordinator, coordinator.id, true)).rejects.toMatchObject({
      status: 422,
    });
    await expect(changeStanding(db, coordinator, 99_999, true)).rejects.toMatchObject({ status: 404 });
    expect(newPersonSchema.safeParse({ ...newcomer, name: ' \u200b ' }).success).toBe(false);
    expect(newPersonSchema.parse({ ...newcomer, mail: '' }).mail).toBeNull();
  });
});

describe('changing a person', () => {
  const add = (name: string, mail: string) =>
    addPerson(db, coordinator, { name, mail, role: 'member', stationId: null }, 'UTC');

  it('changes what is given and nothing else, by coordinators alone', async () => {
    const id = await add('Anselm Reed', 'anselm@test.example');
    expect(
      await alterPerson(db, coordinator, id, {
        occupation: 'curator',
        zone: 'Pacific/Auckland',
        stationId: 2,
      }),
    ).toMatchObject({
      name: 'Anselm Reed',
      mail: 'anselm@test.example',
      occupation: 'curator',
      zone: 'Pacific/Auckland',
      stationName: 'South',
    });
    await expect(alterPerson(db, member, id, { role: 'coordinator' })).rejects.toMatchObject({ status: 403 });
    await expect(alterPerson(db, coordinator, id, { mail: 'sarka@test.example' })).rejects.toMatchObject({
      errors: [{ field: 'mail' }],
    });
    await expect(alterPerson(db, coordinator, id, { stationId: 99 })).rejects.toMatchObject({
      errors: [{ field: 'stationId' }],
    });
    await expect(alterPerson(db, coordinator, 999_999, { name: 'X' })).rejects.toMatchObject({ status: 404 });
  });

  it('with another address the links that went to the one before let nobody in', async () => {
    const id = await add('Odo Finch', 'odo@test.example');
    await invite(db, coordinator, { to: { kind: 'people', ids: [id] }, words: '' });
    const { id: letter } = await db('access_letters').where({ person_id: id }).first<{ id: number }>('id');
    const secret = 'a secret of thirty-two characters or more';
    expect(await openLetter(db, secret, accessToken(secret, letter))).toMatchObject({ state: 'good' });
    await alterPerson(db, coordinator, id, { name: 'Odo Finch-Marsh' });
    expect(await openLetter(db, secret, accessToken(secret, letter))).toMatchObject({ state: 'good' });
    await alterPerson(db, coordinator, id, { mail: 'odo.finch@test.example' });
    expect(await openLetter(db, secret, accessToken(secret, letter))).toEqual({ state: 'withdrawn' });
  });

  it('of two coordinators who take the role from each other at once, one is left', async () => {
    const other = await add('Second Coordinator', 'second@test.example');
    await alterPerson(db, coordinator, other, { role: 'coordinator' });
    const both = await Promise.allSettled([
      alterPerson(db, coordinator, other, { role: 'member' }),
      alterPerson(db, { ...coordinator, id: other }, coordinator.id, { role: 'member' }),
    ]);
    expect(both.filter((each) => each.status === 'fulfilled')).toHaveLength(1);
    const [left] = await db('people').where({ role: 'coordinator' }).select<{ id: number }[]>('id');
    await expect(
      alterPerson(db, { ...coordinator, id: left!.id }, left!.id, { role: 'member' }),
    ).rejects.toMatchObject({ errors: [{ field: 'role' }] });
    await db('people').where({ id: coordinator.id }).update({ role: 'coordinator' });
  });
});

describe('stations', () => {
  it('are made, renamed and moved with those who read by their clock, and deleted when nobody is there', async () => {
    const made = (await makeStation(db, coordinator, { name: 'Far Point', zone: 'UTC' })).find(
      (each) => each.name === 'Far Point',
    );
    const id = made?.id ?? 0;
    const [one, two] = await addPeople(db, 2);
    await db('people').where({ id: one! }).update({ station_id: id, zone: 'UTC' });
    await db('people').where({ id: two! }).update({ station_id: id, zone: 'Asia/Tokyo' });
    const after = await alterStation(db, coordinator, id, {
      name: 'Farther Point',
      zone: 'Europe/Lisbon',
      takesPeople: true,
    });
    expect(after.find((each) => each.id === id)).toEqual({
      id,
      name: 'Farther Point',
      zone: 'Europe/Lisbon',
      retired: false,
      people: 2,
      byItsClock: 1,
    });
    expect(await countOf(db, "FROM people WHERE station_id = ? AND zone = 'Asia/Tokyo'", [id])).toBe(1);
    await expect(makeStation(db, coordinator, { name: 'farther point', zone: 'UTC' })).rejects.toMatchObject({
      errors: [{ field: 'name' }],
    });
    await expect(deleteStation(db, coordinator, id)).rejects.toMatchObject({ status: 409 });
    await db('people').where({ station_id: id }).update({ station_id: null });
    expect((await deleteStation(db, coordinator, id)).some((each) => each.id === id)).toBe(false);
    await expect(makeStation(db, member, { name: 'Theirs', zone: 'UTC' })).rejects.toMatchObject({
      status: 403,
    });
  });
});

describe('two stations', () => {
  const make = async (name: string): Promise<number> =>
    (await makeStation(db, coordinator, { name, zone: 'UTC' })).find((each) => each.name === name)?.id ?? 0;

  it('become one, with whoever is there, what is chosen by them, and their holidays', async () => {
    const [old, stays] = [await make('Old Quay'), await make('New Quay')];
    const [one = 0, gone = 0] = await addPeople(db, 2);
    await db('people').whereIn('id', [one, gone]).update({ station_id: old, zone: 'Asia/Tokyo' });
    await db('people').where({ id: gone }).update({ standing: 'left', left_at: new Date() });
    const quay = await addGroup(db, 'On the quay', { kind: 'station', id: old });
    await db('holidays').insert([
      { on_date: '2027-05-01', name: 'Of the old', station_id: old },
      { on_date: '2027-06-01', name: 'Of the old too', station_id: old },
      { on_date: '2027-06-01', name: 'Of the new', station_id: stays },
    ]);
    await expect(mergeStation(db, coordinator, old, { into: old })).rejects.toMatchObject({ status: 422 });
    await expect(mergeStation(db, member, old, { into: stays })).rejects.toMatchObject({ status: 403 });
    // Of two who press at once one does it.
    const both = await Promise.allSettled([
      mergeStation(db, coordinator, old, { into: stays }),
      mergeStation(db, coordinator, old, { into: stays }),
    ]);
    expect(both.filter((each) => each.status === 'fulfilled')).toHaveLength(1);
    expect(await rows(db, 'SELECT id, zone FROM people WHERE station_id = ? ORDER BY id', [stays])).toEqual([
      { id: one, zone: 'Asia/Tokyo' },
      { id: gone, zone: 'Asia/Tokyo' },
    ]);
    expect((await groupPage(db, coordinator, quay)).members.map((each) => each.id)).toEqual([one]);
    expect(
      await rows(db, 'SELECT name FROM holidays WHERE station_id = ? ORDER BY on_date', [stays]),
    ).toEqual([{ name: 'Of the old' }, { name: 'Of the new' }]);
    expect(await countOf(db, 'FROM stations WHERE id = ?', [old])).toBe(0);
    await db('people').where({ id: gone }).update({ standing: 'active', left_at: null });
  });

  it('of which one is retired: who is there stays, and nobody is put there any more', async () => {
    const id = await make('Old Light');
    const [there = 0, other = 0] = await addPeople(db, 2);
    await alterPerson(db, coordinator, there, { stationId: id });
    const lines = await retireStation(db, coordinator, id, true);
    expect(lines.find((each) => each.id === id)).toMatchObject({ retired: true, people: 1 });
    expect((await stationsInUse(db)).some((each) => each.id === id)).toBe(false);
    await alterPerson(db, coordinator, there, { stationId: id, occupation: 'keeper' });
    await expect(alterPerson(db, coordinator, other, { stationId: id })).rejects.toMatchObject({
      errors: [{ field: 'stationId' }],
    });
    await retireStation(db, coordinator, id, false);
    await alterPerson(db, coordinator, other, { stationId: id });
    await db('people').where({ station_id: id }).update({ station_id: null });
    await deleteStation(db, coordinator, id);
  });
});

describe('several at once', () => {
  it('one thing is done to all of them, and taken back from those it changed', async () => {
    const ids = await addPeople(db, 6);
    const [a = 0, b = 0, c = 0] = ids;
    const group = await addGroup(db, 'Together', [a]);
    const into = await doTogether(db, coordinator, { ids, act: { kind: 'into group', groupId: group } });
    expect(into.changed).toEqual(ids.slice(1));
    await doTogether(db, coordinator, { ids: into.changed, act: { kind: 'out of group', groupId: group } });
    expect(await rows(db, 'SELECT person_id AS id FROM group_members WHERE group_id = ?', [group])).toEqual([
      { id: a },
    ]);

    await db('people').where({ id: b }).update({ station_id: null });
    const moved = await doTogether(db, coordinator, {
      ids: [a, b, c],
      act: { kind: 'to station', stationId: 2 },
    });
    expect(moved.before).toEqual([
      { id: a, stationId: 1 },
      { id: b, stationId: null },
      { id: c, stationId: 1 },
    ]);
    await doTogether(db, coordinator, {
      ids: moved.changed,
      act: { kind: 'back to stations', stations: moved.before },
    });
    expect(
      await rows(db, 'SELECT station_id AS stationId FROM people WHERE id IN (?, ?, ?) ORDER BY id', [
        a,
        b,
        c,
      ]),
    ).toEqual([{ stationId: 1 }, { stationId: null }, { stationId: 1 }]);

    await changeStanding(db, coordinator, a, true);
    const left = await doTogether(db, coordinator, { ids: [a, b, c], act: { kind: 'leave' } });
    expect(left.changed).toEqual([b, c]);
    await doTogether(db, coordinator, { ids: left.changed, act: { kind: 'return' } });
    const found = (shown: 'left' | 'here') => listPeople(db, coordinator, { search: 'Person', shown });
    expect((await found('left')).people.map((person) => person.id)).toEqual([a]);
  });

  it('is refused as a whole where one of them is a coordinator, or the group has a rule', async () => {
    const ids = await addPeople(db, 2);
    const live = await addGroup(db, 'By rule', { kind: 'role', role: 'editor' });
    const leave = doTogether(db, coordinator, { ids: [...ids, 1], act: { kind: 'leave' } });
    await expect(leave).rejects.toMatchObject({
      status: 422,
      message: expect.stringContaining('Maud') as unknown,
    });
    expect(await rows(db, "SELECT 1 FROM people WHERE id IN (?, ?) AND standing = 'left'", ids)).toEqual([]);
    const into = (actor: typeof coordinator) =>
      doTogether(db, actor, { ids, act: { kind: 'into group', groupId: live } });
    await expect(into(coordinator)).rejects.toMatchObject({ status: 409 });
    await expect(into({ ...coordinator, role: 'editor' })).rejects.toMatchObject({ status: 403 });
    const nowhere = doTogether(db, coordinator, { ids, act: { kind: 'to station', stationId: 99 } });
    await expect(nowhere).rejects.toMatchObject({ status: 422 });
  });
});

describe('the list', () => {
  it('is ordered by station and by occupation, those without last whichever way', async () => {
    for (const order of ['station', 'occupation'] as const)
      for (const turned of [false, true]) {
        const all: string[] = [];
        let n = 0;
        while (n < (await countListedPeople(db, coordinator, {}))) {
          const { people: some } = await listPeople(db, coordinator, { order, turned, from: n });
          n += some.length;
          all.push(
            ...some.map((person) => (order === 'station' ? (person.stationName ?? '') : person.occupation)),
          );
        }
        const named = all.filter((each) => each !== '');
        expect(all).toEqual([...named, ...all.slice(named.length)]);
        expect(all.slice(named.length).every((each) => each === '')).toBe(true);
        const distinct = named.filter((each, at) => each !== named[at - 1]);
        const sorted = [...distinct].sort((a, b) => a.localeCompare(b, 'en'));
        expect(distinct).toEqual(turned ? sorted.reverse() : sorted);
      }
  });

  it('is narrowed by a sentence and by where people stand, and ordered by who joined last, page by page', async () => {
    await db('people').update({ first_in_at: null });
    await db('people').where({ id: 1 }).update({ first_in_at: '2026-01-01' });
    await addPeople(db, 120, 2);
    await db.raw("UPDATE people SET joined_on = '2020-01-01' + INTERVAL (id * 7) % 400 DAY");
    const dates: string[] = [];
    const ids: number[] = [];
    const asked = { shown: 'not in yet' as const, audience: { kind: 'station' as const, id: 2 } };
    while (ids.length < (await countListedPeople(db, coordinator, asked))) {
      const page = await listPeople(db, coordinator, { ...asked, order: 'joined', from: ids.length });
      dates.push(...page.people.map((person) => person.joinedOn));
      ids.push(...page.people.map((person) => person.id));
      expect(page.people.every((person) => person.stationId === 2)).toBe(true);
    }
    expect(dates).toEqual([...dates].sort().reverse());
    expect((await idsOfListed(db, coordinator, asked)).sort((a, b) => a - b)).toEqual(
      [...ids].sort((a, b) => a - b),
    );
    expect(new Set(ids).size).toBe(ids.length);
    expect(ids.length).toBeGreaterThan(119);
    // Whom another test has made one is one here too.
    const coordinators = await rows<{ id: number }>(
      db,
      "SELECT id FROM people WHERE role = 'coordinator' AND standing <> 'left' ORDER BY name, id",
    );
    const listed = await listPeople(db, coordinator, { audience: { kind: 'role', role: 'coordinator' } });
    expect(listed.people.map((person) => person.id)).toEqual(coordinators.map((person) => person.id));
    expect(coordinators.length).toBeLessThan(5);
    // An audience can ask for answers that are not an editor's to see.
    const everyone = listPeople(db, { ...coordinator, role: 'editor' }, { audience: { kind: 'everyone' } });
    await expect(everyone).rejects.toMatchObject({ status: 403 });
  });
});
