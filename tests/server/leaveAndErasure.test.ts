import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dateAt, dayAfter } from '../../src/core/timing/wallTime.ts';
import { openSession } from '../../src/server/accounts/opening.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { erasePerson } from '../../src/server/people/erasing.ts';
import { chooseLeave, moveLeaves } from '../../src/server/people/leave.ts';
import { personForDesk } from '../../src/server/people/page.ts';
import { changeStanding, listPeople } from '../../src/server/people/service.ts';
import { demoHouse, signedIn } from './routes.ts';
import { addPeople, coordinator, countOf, freshDatabase, whereIs } from './world.ts';

describe('a leave', () => {
  let db: Database;
  let east: number;
  let west: number;
  beforeAll(async () => {
    ({ db } = await freshDatabase('leave'));
    [east = 0, west = 0] = await addPeople(db, 2);
    // Twenty-five hours apart: it is never the same date for both.
    await db('people').where({ id: east }).update({ zone: 'Pacific/Kiritimati' });
    await db('people').where({ id: west }).update({ zone: 'Pacific/Pago_Pago' });
  });
  afterAll(() => db.destroy());
  const standing = async (id: number): Promise<string> =>
    (await personForDesk(db, coordinator, id)).person.standing;

  it('begins by each one’s own clock, and ends by itself', async () => {
    const nowMs = await databaseNow(db);
    const today = dateAt(nowMs, 'Pacific/Kiritimati');
    for (const id of [east, west]) await chooseLeave(db, coordinator, id, { from: today, until: null });
    expect([await standing(east), await standing(west)]).toEqual(['on leave', 'active']);
    await moveLeaves(db);
    expect([await standing(east), await standing(west)]).toEqual(['on leave', 'active']);
    // A day later in the west, and past the last day in the east.
    await db('people')
      .where({ id: west })
      .update({ leave_from: dateAt(nowMs, 'Pacific/Pago_Pago') });
    await db('people')
      .where({ id: east })
      .update({ leave_until: dayAfter(today, -1) });
    await Promise.all([moveLeaves(db), moveLeaves(db)]);
    expect([await standing(east), await standing(west)]).toEqual(['active', 'on leave']);
    expect((await personForDesk(db, coordinator, east)).leave).toBeNull();
    expect(
      await countOf(db, "FROM events WHERE kind = 'person.changed' AND subject = ?", [`person:${east}`]),
    ).toBe(2);
    await chooseLeave(db, coordinator, west, null);
    expect(await standing(west)).toBe('active');
  });

  it('that is over, or of somebody who has left, is refused, and nobody comes back by it who has left', async () => {
    await expect(
      chooseLeave(db, coordinator, east, { from: '2020-01-01', until: '2020-02-01' }),
    ).rejects.toMatchObject({ errors: [{ field: 'until' }] });
    await expect(
      chooseLeave(db, { ...coordinator, id: west, role: 'member' }, east, null),
    ).rejects.toMatchObject({ status: 403 });
    await chooseLeave(db, coordinator, east, { from: '2020-01-01', until: null });
    await changeStanding(db, coordinator, east, true);
    await moveLeaves(db);
    expect(await standing(east)).toBe('left');
    await expect(chooseLeave(db, coordinator, east, null)).rejects.toMatchObject({ status: 409 });
  });
});

describe('somebody who is erased', () => {
  let db: Database;
  beforeAll(async () => {
    db = await demoHouse('erasure');
  });
  afterAll(() => db.destroy());

  it('stands nowhere any more but in what others wrote, and what was counted is counted still', async () => {
    const { actor } = await signedIn(db, 'maud');
    const [row] = await rows<{ id: number; name: string; mail: string }>(
      db,
      "SELECT id, name, mail FROM people WHERE mail LIKE 'otieno@%'",
    );
    const { id, name, mail } = row!;
    await openSession(db, id);
    await db('identities').insert({ person_id: id, in_system: 'loans', value: 'otieno', folded: 'otieno' });
    await expect(erasePerson(db, actor, id, name)).rejects.toMatchObject({ status: 409 });
    await changeStanding(db, actor, id, true);
    await expect(erasePerson(db, actor, id, 'Somebody else')).rejects.toMatchObject({
      errors: [{ field: 'name' }],
    });
    const counted = async (): Promise<number[]> =>
      Promise.all(
        ['deliveries', 'roll', 'reactions', 'ballots', 'check_in_answers'].map((table) =>
          countOf(db, `FROM ${table} WHERE person_id = ?`, [id]),
        ),
      );
    const before = await counted();
    expect(before.reduce((sum, n) => sum + n, 0)).toBeGreaterThan(10);
    const posts = await countOf(db, 'FROM posts WHERE author_id = ?', [id]);
    await erasePerson(db, actor, id, name);

    expect(await counted()).toEqual(before);
    expect(await countOf(db, 'FROM posts WHERE author_id = ?', [id])).toBe(posts);
    // What others wrote is theirs, in texts and record sheets.
    expect(await whereIs(db, mail)).toEqual(['records.cells']);
    const texts = [
      'records.cells',
      'announcements.content',
      'announcement_versions.body',
      'announcement_versions.excerpt',
      'announcement_versions.title',
      'search_texts.body',
      'replies.document',
    ];
    expect((await whereIs(db, name)).filter((place) => !texts.includes(place))).toEqual([]);
    await expect(personForDesk(db, actor, id)).rejects.toMatchObject({ status: 404 });
    expect((await listPeople(db, actor, { search: 'Erased' })).people).toEqual([]);
    await expect(changeStanding(db, actor, id, false)).rejects.toMatchObject({ status: 404 });
    await expect(erasePerson(db, actor, id, 'Erased person')).rejects.toMatchObject({ status: 404 });
  });
});
