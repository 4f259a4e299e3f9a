import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newPersonSchema } from '../../src/core/people/person.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { addPerson, alterPerson, changeStanding, listPeople } from '../../src/server/people/service.ts';
import { alterStation, deleteStation, makeStation } from '../../src/server/people/stationService.ts';
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
    let after: { name: string; id: number } | null = null;
    do {
      const page = await listPeople(db, coordinator, { search: '', after });
      names.push(...page.people.map((person) => person.name));
      after = page.next;
    } while (after);
    expect(names).toHaveLength(123);
    expect(new Set(names).size).toBe(123);
  });

  it('finds by name, mail address and station, and takes marks of the search language as letters', async () => {
    const find = async (search: string): Promise<string[]> =>
      (await listPeople(db, coordinator, { search, after: null })).people.map((person) => person.name);
    expect(await find('sarka@')).toEqual(['100% Šárka_O’Neil']);
    expect(await find('0% Š')).toEqual(['100% Šárka_O’Neil']);
    expect(await find('sarka_o')).toEqual(['100% Šárka_O’Neil']);
    expect(await find('ليلى')).toEqual(['ليلى']);
    expect(await find('South')).toEqual(['100% Šárka_O’Neil']);
    expect(await find('%%%')).toEqual([]);
    await expect(listPeople(db, member, { search: '', after: null })).rejects.toMatchObject({ status: 403 });
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
