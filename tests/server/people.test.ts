import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newPersonSchema } from '../../src/core/people/person.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { transact } from '../../src/server/database/connection.ts';
import { publish, recent, forget } from '../../src/server/outbox/store.ts';
import { addPerson, changeStanding, listPeople } from '../../src/server/people/service.ts';
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

describe('the outbox', () => {
  it('tells only of what was committed, also where a later number commits first', async () => {
    const told = async (): Promise<string[]> => (await recent(db, 60)).map((happening) => happening.topic);
    await expect(
      transact(db, async (trx) => {
        await publish(trx, ['undone']);
        throw new Error('no');
      }),
    ).rejects.toThrow('no');
    await transact(db, async (slow) => {
      await publish(slow, ['slow']);
      await transact(db, (quick) => publish(quick, ['quick']));
      expect(await told()).toContain('quick');
      expect(await told()).not.toContain('slow');
    });
    const all = await told();
    expect(all).toContain('slow');
    expect(all).not.toContain('undone');
    expect(all.indexOf('slow')).toBeLessThan(all.indexOf('quick'));
    await db.raw("UPDATE outbox SET at = NOW(3) - INTERVAL 3 HOUR WHERE topic = 'slow'");
    expect(await forget(db, 2)).toBe(1);
  });
});
