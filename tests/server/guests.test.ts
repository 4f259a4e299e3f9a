import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { searchSchema } from '../../src/core/search/searchSchema.ts';
import { dateAt, dayAfter } from '../../src/core/timing/wallTime.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { actorOf } from '../../src/server/accounts/actor.ts';
import { openSession } from '../../src/server/accounts/opening.ts';
import { countPeople } from '../../src/server/audience/store.ts';
import { callableOn } from '../../src/server/boards/callable.ts';
import { appointModerator } from '../../src/server/boards/settings.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { listBoards, membersOfBoard, openBoard, visibleBoard } from '../../src/server/boards/service.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { audienceContext } from '../../src/server/groups/directory.ts';
import { bringIn, chooseDoor, joinGroup, myGroups } from '../../src/server/groups/joining.ts';
import { appointOwner } from '../../src/server/groups/service.ts';
import { endGuests } from '../../src/server/people/guests.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { addPerson, alterPerson, changeStanding, listPeople } from '../../src/server/people/service.ts';
import { authorsNamed, search } from '../../src/server/search/service.ts';
import { personPage } from '../../src/server/thanks/service.ts';
import { addGroup, addPeople, coordinator, countOf, freshDatabase } from './world.ts';

let db: Database;
let today: string;
let guest: Actor;
let party: number;
let partyBoard: number;
let allBoard: number;

const board = (name: string, groupId: number | null): Promise<number> =>
  insertBoard(db, {
    name,
    about: '',
    groupId,
    ...PRESETS.talk.switches,
    ownerId: coordinator.id,
    sessionOf: null,
    dateOf: null,
  });

beforeAll(async () => {
  ({ db } = await freshDatabase('guests'));
  await addPeople(db, 4);
  today = dateAt(await databaseNow(db), 'UTC');
  const id = await addPerson(
    db,
    coordinator,
    {
      name: 'Salome Quist',
      mail: 'salome@visitors.example',
      role: 'member',
      stationId: 1,
      guestUntil: dayAfter(today, 30),
    },
    'UTC',
  );
  await db('people').where({ id }).update({ zone: 'UTC' });
  party = await addGroup(db, 'Loan party', [id]);
  partyBoard = await board('Loan talk', party);
  allBoard = await board('All of us', null);
  guest = (await actorOf(db, id))!;
});
afterAll(() => db.destroy());

describe('a guest from outside', () => {
  it('is on the boards and in the groups chosen for them, and in nothing that is everybody’s', async () => {
    expect((await listBoards(db, guest)).map((each) => each.id)).toEqual([partyBoard]);
    await expect(visibleBoard(db, guest, allBoard)).rejects.toMatchObject({ status: 404 });
    const now = await audienceContext(db);
    const everybody = await countPeople(db, { kind: 'everyone' }, now);
    expect(await countPeople(db, { kind: 'any', of: [{ kind: 'everyone' }, { kind: 'guests' }] }, now)).toBe(
      everybody + 1,
    );
    // Open groups are offered to those of the organisation, and take in nobody else.
    const open = await addGroup(db, 'Choir', []);
    await chooseDoor(db, coordinator, open, { joining: 'open', ownerBrings: false, about: '' });
    expect((await myGroups(db, guest)).offers.map((each) => each.name)).toEqual(['Loan party']);
    expect((await myGroups(db, { ...guest, guest: false })).offers).toHaveLength(2);
    await expect(joinGroup(db, guest, open, '')).rejects.toMatchObject({ status: 404 });
  });

  it('finds nothing of the shelf, and no names of those who write elsewhere', async () => {
    const findable = { author_id: 1, at: new Date(), body: '' };
    await db('findables').insert([
      { ...findable, kind: 'answer', subject_id: 1, title: 'Where the lanterns hang' },
      { ...findable, kind: 'post', subject_id: 1, board_id: allBoard, title: 'Lanterns' },
      {
        ...findable,
        kind: 'post',
        subject_id: 2,
        board_id: partyBoard,
        author_id: guest.id,
        title: 'Lanterns lent',
      },
    ]);
    const found = async (who: Actor): Promise<string[]> =>
      (await search(db, who, 'UTC', searchSchema.parse({ q: '' }))).found.map((each) => each.title.join(''));
    expect(await found(guest)).toEqual(['Lanterns lent']);
    expect(await found(coordinator)).toHaveLength(3);
    const everyWriter = await authorsNamed(db, coordinator, '');
    expect(everyWriter.length).toBe(2);
    expect((await authorsNamed(db, guest, '')).map((each) => each.id)).toEqual([guest.id]);
  });

  it('is told of those they share a board with, and of nobody else', async () => {
    const [other = 0, apart = 0] = await addPeople(db, 2);
    await db('group_members').insert({ group_id: party, person_id: other });
    expect(await personPage(db, guest, other)).toMatchObject({ name: expect.any(String) as unknown });
    expect((await personPage(db, coordinator, guest.id)).name).toBe('Salome Quist (guest)');
    await expect(personPage(db, guest, apart)).rejects.toMatchObject({ status: 404 });
    await db('group_members').where({ person_id: other }).delete();
  });

  it('is marked wherever others see their name', async () => {
    const shown = 'Salome Quist (guest)';
    expect((await membersOfBoard(db, coordinator, partyBoard, '', null)).members).toMatchObject([
      { name: shown },
    ]);
    expect(await callableOn(db, coordinator, partyBoard, 'salome')).toMatchObject([{ name: shown }]);
    await writePost(
      db,
      guest,
      partyBoard,
      {
        title: 'Crates',
        document: {
          type: 'doc',
          content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Are here.' }] }],
        },
        image: null,
        gallery: [],
        files: [],
      },
      'guests-key-1',
    );
    expect(await openBoard(db, coordinator, partyBoard)).toMatchObject({ posts: [{ authorName: shown }] });
    expect((await listPeople(db, coordinator, { shown: 'guests' })).people).toMatchObject([
      { name: 'Salome Quist', guestUntil: dayAfter(today, 30) },
    ]);
  });

  it('has no role, and no last day that is past', async () => {
    await expect(alterPerson(db, coordinator, guest.id, { role: 'editor' })).rejects.toMatchObject({
      errors: [{ field: 'role' }],
    });
    await expect(
      alterPerson(db, coordinator, guest.id, { guestUntil: dayAfter(today, -1) }),
    ).rejects.toMatchObject({ errors: [{ field: 'guestUntil' }] });
    await expect(alterPerson(db, coordinator, 1, { guestUntil: today })).rejects.toMatchObject({
      errors: [{ field: 'role' }],
    });
    // Nor do they look after anything, nor does who does become one.
    await expect(appointModerator(db, coordinator, partyBoard, guest.id, true)).rejects.toMatchObject({
      status: 422,
    });
    await expect(appointOwner(db, coordinator, party, guest.id, true)).rejects.toMatchObject({ status: 422 });
    const [keeper = 0] = await addPeople(db, 1);
    await appointOwner(db, coordinator, party, keeper, true);
    await expect(alterPerson(db, coordinator, keeper, { guestUntil: today })).rejects.toMatchObject({
      errors: [{ field: 'guestUntil' }],
    });
    await appointOwner(db, coordinator, party, keeper, false);
  });

  it('is out when their last day is over by their own clock, and comes back with a later one', async () => {
    await openSession(db, guest.id);
    await alterPerson(db, coordinator, guest.id, { guestUntil: today });
    await endGuests(db);
    expect(await actorOf(db, guest.id)).toBeDefined();
    await db('people')
      .where({ id: guest.id })
      .update({ guest_until: dayAfter(today, -1) });
    await Promise.all([endGuests(db), endGuests(db)]);
    expect(await actorOf(db, guest.id)).toBeUndefined();
    expect(await countOf(db, 'FROM sessions WHERE person_id = ?', [guest.id])).toBe(0);
    expect(
      await countOf(db, "FROM events WHERE kind = 'person.left' AND subject = ?", [`person:${guest.id}`]),
    ).toBe(1);
    await expect(changeStanding(db, coordinator, guest.id, false)).rejects.toMatchObject({ status: 409 });
    // What else is changed of them leaves the day that is past as it is.
    await alterPerson(db, coordinator, guest.id, {
      name: 'Salome Quist-Lee',
      guestUntil: dayAfter(today, -1),
    });
    await alterPerson(db, coordinator, guest.id, { guestUntil: dayAfter(today, 5) });
    await changeStanding(db, coordinator, guest.id, false);
    expect(await actorOf(db, guest.id)).toMatchObject({ guest: true });
    await alterPerson(db, coordinator, guest.id, { guestUntil: null });
    expect((await listBoards(db, (await actorOf(db, guest.id))!)).map((each) => each.id)).toContain(allBoard);
  });

  it('is brought in by whoever looks after a group, where a coordinator allows it', async () => {
    const [ownerId = 0] = await addPeople(db, 1);
    await appointOwner(db, coordinator, party, ownerId, true);
    await chooseDoor(db, coordinator, party, { joining: 'closed', ownerBrings: true, about: '' });
    const owner = (await actorOf(db, ownerId))!;
    const brought = { name: 'Ivo Tamsin', mail: 'ivo@visitors.example' };
    await expect(
      bringIn(db, owner, party, { ...brought, guestUntil: dayAfter(today, -2) }),
    ).rejects.toMatchObject({ errors: [{ field: 'guestUntil' }] });
    await bringIn(db, owner, party, { ...brought, guestUntil: dayAfter(today, 9) });
    const [person] = await rows<{ shown: string }>(
      db,
      "SELECT shown_name AS shown FROM people WHERE mail = 'ivo@visitors.example'",
    );
    expect(person).toEqual({ shown: 'Ivo Tamsin (guest)' });
  });
});
