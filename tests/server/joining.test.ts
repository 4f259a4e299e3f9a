import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Door } from '../../src/core/groups/joining.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import {
  bringIn,
  chooseDoor,
  decideRequest,
  groupDoor,
  joinGroup,
  leaveGroup,
  myGroups,
} from '../../src/server/groups/joining.ts';
import { groupPage } from '../../src/server/groups/making.ts';
import { appointOwner } from '../../src/server/groups/service.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import { addGroup, addPeople, coordinator, countOf, freshDatabase } from './world.ts';

let db: Database;
let people: number[];
let group: number;
let owner: Actor;
let other: Actor;
let made = 0;

const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });
const members = async (): Promise<number[]> =>
  (
    await rows<{ id: number }>(
      db,
      'SELECT person_id AS id FROM group_members WHERE group_id = ? ORDER BY 1',
      [group],
    )
  ).map((row) => row.id);
const door = (part: Partial<Door>): Promise<void> =>
  chooseDoor(db, coordinator, group, { joining: 'closed', ownerBrings: false, about: '', ...part });
const told = (personId: number, title: string): Promise<number> =>
  countOf(db, "FROM notices WHERE person_id = ? AND kind = 'group' AND title LIKE ?", [personId, title]);

beforeAll(async () => {
  ({ db } = await freshDatabase('joining'));
  people = await addPeople(db, 8);
  owner = member(people[0]!);
  other = member(people[1]!);
});
beforeEach(async () => {
  group = await addGroup(db, `Party ${++made}`, [people[7]!]);
  await appointOwner(db, coordinator, group, owner.id, true);
});
afterAll(() => db.destroy());

const offered = async (actor: Actor) => (await myGroups(db, actor)).offers.find((each) => each.id === group);

describe('a group', () => {
  it('that is closed is nobody’s to see who is not in it, and nobody comes in or goes out by themselves', async () => {
    expect(await offered(other)).toBeUndefined();
    expect(await offered(member(people[7]!))).toMatchObject({ mine: 'in', joining: 'closed' });
    for (const id of [group, 999_999])
      await expect(joinGroup(db, other, id, '')).rejects.toMatchObject({ status: 404 });
    await expect(leaveGroup(db, member(people[7]!), group)).rejects.toMatchObject({ status: 404 });
  });

  it('that is open takes whoever presses in once, and lets them out again', async () => {
    await door({ joining: 'open', about: 'For all' });
    expect(await offered(other)).toMatchObject({ mine: 'out', about: 'For all', people: 1 });
    const pressed = await Promise.all([1, 2, 3].map(() => joinGroup(db, other, group, '')));
    expect(pressed).toEqual([{ mine: 'in' }, { mine: 'in' }, { mine: 'in' }]);
    expect(await members()).toEqual([other.id, people[7]]);
    const joins = "FROM events WHERE kind = 'group.membership changed' AND subject = ?";
    expect(await countOf(db, joins, [`group:${group}`])).toBe(1);
    await leaveGroup(db, other, group);
    expect(await members()).toEqual([people[7]]);
    await expect(leaveGroup(db, other, group)).rejects.toMatchObject({ status: 404 });
  });

  it('that is asked tells its owner, who answers once, and whoever asked is told', async () => {
    await door({ joining: 'asked' });
    await Promise.all([joinGroup(db, other, group, 'Please'), joinGroup(db, other, group, 'Please')]);
    expect(await told(owner.id, '%asks to come into%')).toBe(1);
    expect(await members()).toEqual([people[7]]);
    const [mine] = (await myGroups(db, owner)).owned.filter((each) => each.id === group);
    expect(mine?.requests).toMatchObject([{ personId: other.id, words: 'Please' }]);
    await expect(decideRequest(db, other, group, other.id, true)).rejects.toMatchObject({ status: 404 });
    const answers = await Promise.allSettled([
      decideRequest(db, owner, group, other.id, true),
      decideRequest(db, coordinator, group, other.id, false),
    ]);
    expect(answers.map((each) => each.status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(
      await countOf(db, "FROM notices WHERE person_id = ? AND kind = 'group' AND path = '/groups/mine'", [
        other.id,
      ]),
    ).toBeGreaterThan(0);
    expect((await groupDoor(db, coordinator, group)).requests).toEqual([]);
  });

  it('is asked no longer by who has left or thinks better of it, and not where nobody looks after it', async () => {
    await door({ joining: 'asked' });
    await joinGroup(db, member(people[2]!), group, '');
    await joinGroup(db, member(people[3]!), group, '');
    await leaveGroup(db, member(people[2]!), group);
    await changeStanding(db, coordinator, people[3]!, true);
    expect((await groupDoor(db, coordinator, group)).requests).toEqual([]);
    await appointOwner(db, coordinator, group, owner.id, false);
    await expect(joinGroup(db, other, group, '')).rejects.toMatchObject({ status: 409 });
    // Nor where whoever did has left.
    await appointOwner(db, coordinator, group, people[5]!, true);
    await changeStanding(db, coordinator, people[5]!, true);
    await expect(joinGroup(db, other, group, '')).rejects.toMatchObject({ status: 409 });
  });

  it('may have several owners: each is told who asks, the first to answer has answered, and one may go', async () => {
    const second = member(people[6]!);
    for (let pressed = 0; pressed < 2; pressed += 1)
      await appointOwner(db, coordinator, group, second.id, true);
    await door({ joining: 'asked', ownerBrings: true });
    const before = await told(owner.id, '%asks to come into%');
    await joinGroup(db, other, group, 'Please');
    expect(await told(owner.id, '%asks to come into%')).toBe(before + 1);
    expect(await told(second.id, '%asks to come into%')).toBe(1);
    expect((await offered(other))?.owners).toEqual(['Person 00002', 'Person 00008']);
    const answers = await Promise.allSettled([
      decideRequest(db, owner, group, other.id, true),
      decideRequest(db, second, group, other.id, false),
    ]);
    expect(answers.map((each) => each.status).sort()).toEqual(['fulfilled', 'rejected']);
    await appointOwner(db, coordinator, group, owner.id, false);
    expect((await groupPage(db, coordinator, group)).owners).toEqual([
      { id: second.id, name: 'Person 00008' },
    ]);
    await expect(
      bringIn(db, owner, group, { name: '', mail: `person${people[4]}@test.example` }),
    ).rejects.toMatchObject({ status: 404 });
    await bringIn(db, second, group, { name: '', mail: `person${people[4]}@test.example` });
    expect(await members()).toContain(people[4]);
  });

  it('by a rule has no door', async () => {
    const live = await addGroup(db, `Live ${made}`, { kind: 'everyone' });
    await expect(
      chooseDoor(db, coordinator, live, { joining: 'open', ownerBrings: false, about: '' }),
    ).rejects.toMatchObject({ status: 409 });
    await expect(joinGroup(db, other, live, '')).rejects.toMatchObject({ status: 404 });
    await expect(
      chooseDoor(db, owner, group, { joining: 'open', ownerBrings: true, about: '' }),
    ).rejects.toMatchObject({ status: 403 });
  });
});

describe('whoever looks after a group', () => {
  it('brings people in where a coordinator allows it: who is here is put in, who is not is invited', async () => {
    const newcomer = { name: 'Ines Farrow', mail: `ines${made}@test.example` };
    await expect(bringIn(db, owner, group, newcomer)).rejects.toMatchObject({ status: 403 });
    await door({ ownerBrings: true });
    await expect(bringIn(db, other, group, newcomer)).rejects.toMatchObject({ status: 404 });
    const here = { name: '', mail: `PERSON${people[4]}@test.example` };
    expect(await bringIn(db, owner, group, here)).toMatchObject({ became: 'was here, and is in it now' });
    expect(await bringIn(db, owner, group, here)).toMatchObject({ became: 'was in it already' });
    await expect(bringIn(db, owner, group, { ...newcomer, name: '' })).rejects.toMatchObject({
      errors: [{ field: 'name' }],
    });
    expect(await bringIn(db, owner, group, newcomer)).toEqual({ became: 'is invited', name: 'Ines Farrow' });
    const [person] = await rows<{ id: number; role: string }>(
      db,
      'SELECT id, role FROM people WHERE mail = ?',
      [newcomer.mail],
    );
    expect(person!.role).toBe('member');
    expect(await members()).toContain(person!.id);
    expect(
      await countOf(db, "FROM access_letters WHERE person_id = ? AND kind = 'invitation' AND made_by = ?", [
        person!.id,
        owner.id,
      ]),
    ).toBe(1);
    // Whoever has left is a coordinator's to bring back.
    await expect(
      bringIn(db, owner, group, { name: 'Back', mail: `person${people[3]}@test.example` }),
    ).rejects.toMatchObject({ errors: [{ field: 'mail' }] });
  });
});
