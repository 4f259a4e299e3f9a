import { afterAll, beforeAll, expect, it } from 'vitest';
import { EMPTY_POLL } from '../../src/core/asks/poll/poll.ts';
import type { Audience } from '../../src/core/audience/expression.ts';
import { includes } from '../../src/core/audience/includes.ts';
import { factsOf } from '../../src/server/audience/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { archiveGroup } from '../../src/server/groups/archiving.ts';
import { audienceContext } from '../../src/server/groups/directory.ts';
import {
  addMembers,
  alterGroup,
  deleteGroup,
  groupMembers,
  groupPage,
  listGroups,
  makeGroup,
  removeMember,
} from '../../src/server/groups/making.ts';
import { ruleOutcome } from '../../src/server/groups/rules.ts';
import { audienceChoices, findByName } from '../../src/server/groups/service.ts';
import { turnGroup } from '../../src/server/groups/turning.ts';
import { alterPerson, listPeople } from '../../src/server/people/service.ts';
import { setLeft } from '../../src/server/people/store.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { expandNow } from './expandNow.ts';
import { addPeople, content, coordinator, freshDatabase, plan, sendNow } from './world.ts';

let db: Database;
let people: number[];
const editor = { id: 5, role: 'editor' as const, moderates: new Set<number>(), mayReach: new Set<number>() };

beforeAll(async () => {
  ({ db } = await freshDatabase('groups'));
  people = [...(await addPeople(db, 80)), ...(await addPeople(db, 20, 2))];
});
afterAll(() => db.destroy());

const drivers: Audience = { kind: 'occupation', occupation: 'driver' };
const south: Audience = { kind: 'station', id: 2 };

it('a list is pasted into a fixed group: by address in any case, by whole name, and what is nobody’s is given back', async () => {
  const id = await makeGroup(db, coordinator, { name: 'Crew', rule: null });
  const name = `Person ${String(people[1]!).padStart(5, '0')}`;
  const done = await addMembers(db, coordinator, id, {
    ids: [people[0]!],
    lines: [
      ` Person${people[2]!}@TEST.example `,
      `Somebody Else <person${people[3]!}@test.example>`,
      name,
      name,
      'nobody@test.example',
      'Person',
      '',
    ],
  });
  expect(done).toEqual({ added: 4, already: 0, unknown: ['nobody@test.example', 'Person'] });
  expect(await addMembers(db, coordinator, id, { ids: [people[0]!], lines: [name] })).toEqual({
    added: 0,
    already: 2,
    unknown: [],
  });
  expect((await groupMembers(db, coordinator, id, null)).members.map((each) => each.id)).toEqual(
    people.slice(0, 4),
  );
  await removeMember(db, coordinator, id, people[0]!);
  await expect(removeMember(db, coordinator, id, people[0]!)).rejects.toMatchObject({ status: 404 });
  // Whoever has left is not in it, and cannot be put in.
  await setLeft(db, people[1]!, true);
  expect((await groupPage(db, coordinator, id)).people).toBe(2);
  expect(await addMembers(db, coordinator, id, { ids: [people[1]!], lines: [] })).toMatchObject({ added: 0 });
  await setLeft(db, people[1]!, false);
});

it('a name two people have puts in neither', async () => {
  await db('people').whereIn('id', [people[10]!, people[11]!]).update({ name: 'Twin Name' });
  const id = await makeGroup(db, coordinator, { name: 'Twins', rule: null });
  expect(await addMembers(db, coordinator, id, { ids: [], lines: ['Twin Name'] })).toEqual({
    added: 0,
    already: 0,
    unknown: ['Twin Name'],
  });
});

it('a rule is tried as on another date, by when people joined', async () => {
  const [one = 0] = await addPeople(db, 1);
  await db('people').where({ id: one }).update({ joined_on: '2026-01-31' });
  const rule: Audience = {
    kind: 'all',
    of: [
      { kind: 'person', id: one },
      { kind: 'joined within', days: 30 },
    ],
  };
  const on = async (date: string | null): Promise<number> =>
    (await ruleOutcome(db, coordinator, rule, null, date)).people;
  expect([await on('2026-03-02'), await on('2026-03-03'), await on(null)]).toEqual([1, 0, 0]);
  await db('people').where({ id: one }).update({ standing: 'left', left_at: new Date() });
});

it('what a rule would do is what it then does, by plain code too', async () => {
  const id = await makeGroup(db, coordinator, { name: 'Drivers', rule: drivers });
  const before = await groupPage(db, coordinator, id);
  expect(before).toMatchObject({ kind: 'live', people: 50, ruleWords: 'every driver' });
  const rule: Audience = {
    kind: 'except',
    from: { kind: 'any', of: [drivers, south] },
    minus: { kind: 'person', id: people[0]! },
  };
  const outcome = await ruleOutcome(db, coordinator, rule, id);
  expect(outcome).toMatchObject({ people: 59, comesIn: { people: 10 }, goesOut: { people: 1 } });
  expect((await groupPage(db, coordinator, id)).people).toBe(50);
  await alterGroup(db, coordinator, id, { rule });
  expect((await groupPage(db, coordinator, id)).people).toBe(outcome.people);

  const now = await audienceContext(db);
  const facts = await factsOf(db, [1, ...people], rule, now);
  const plain = [...facts.values()].filter((person) => includes(rule, person, now)).length;
  expect(plain).toBe(outcome.people);
  let seen = 0;
  for (let after: { name: string; id: number } | null = null; ;) {
    const page = await groupMembers(db, coordinator, id, after);
    seen += page.members.length;
    after = page.next;
    if (!after) break;
  }
  expect(seen).toBe(outcome.people);
});

it('is turned from a rule to whoever is in it now, and back', async () => {
  const id = await makeGroup(db, coordinator, { name: 'Turned', rule: drivers });
  const before = await groupPage(db, coordinator, id);
  await turnGroup(db, coordinator, id, { kind: 'fixed' });
  expect(await groupPage(db, coordinator, id)).toMatchObject({
    kind: 'fixed',
    rule: null,
    people: before.people,
    members: before.members,
  });
  // Whoever begins to drive does not come in any more, and who stops stays.
  const [driver] = before.members;
  await alterPerson(db, coordinator, driver!.id, { occupation: 'baker' });
  expect((await groupPage(db, coordinator, id)).people).toBe(before.people);
  await expect(turnGroup(db, coordinator, id, { kind: 'fixed' })).rejects.toMatchObject({ status: 409 });
  await turnGroup(db, coordinator, id, { kind: 'live', rule: drivers });
  expect(await groupPage(db, coordinator, id)).toMatchObject({
    kind: 'live',
    people: (before.people ?? 0) - 1,
    ruleWords: 'every driver',
  });
  await alterPerson(db, coordinator, driver!.id, { occupation: 'driver' });
  await db('groups').where({ id }).update({ rule: '{"kind":"what"}' });
  await expect(turnGroup(db, coordinator, id, { kind: 'fixed' })).rejects.toMatchObject({ status: 409 });
  await db('groups').where({ id }).delete();
});

it('is deleted only when nothing speaks of it any more, and says what does', async () => {
  const id = await makeGroup(db, coordinator, { name: 'Night watch', rule: null });
  const draft = await insertAnnouncement(
    db,
    coordinator.id,
    content({ title: 'Lamps' }),
    plan({ audience: { kind: 'except', from: { kind: 'everyone' }, minus: { kind: 'group', id } } }),
    'draft',
  );
  await expect(deleteGroup(db, coordinator, id)).rejects.toMatchObject({
    status: 409,
    message: 'It is still used: draft “Lamps”. Change these first.',
  });
  expect((await groupPage(db, coordinator, id)).uses).toEqual([
    { kind: 'draft', name: 'Lamps', path: `/write/${draft}` },
  ]);
  await db('announcements').where({ id: draft }).delete();
  await addMembers(db, coordinator, id, { ids: [people[5]!], lines: [] });
  const occurrence = await sendNow(db, { audience: { kind: 'group', id } }, { title: 'Oil' });
  expect((await groupPage(db, coordinator, id)).uses).toEqual([
    { kind: 'send', name: 'Oil', path: `/sends/${occurrence}` },
  ]);
  await db('occurrences').where({ id: occurrence }).update({ state: 'sent' });
  await deleteGroup(db, coordinator, id);
  await expect(groupPage(db, coordinator, id)).rejects.toMatchObject({ status: 404 });
});

it('an editor sees the groups in reach and no other, and changes none', async () => {
  const [mine, other] = [
    await makeGroup(db, coordinator, { name: 'Mine', rule: null }),
    await makeGroup(db, coordinator, { name: 'Other', rule: null }),
  ];
  const reaching = { ...editor, mayReach: new Set([mine]) };
  expect((await listGroups(db, reaching)).map((group) => group.name)).toEqual(['Mine']);
  expect((await groupPage(db, reaching, mine)).mayChange).toBe(false);
  await expect(groupPage(db, reaching, other)).rejects.toMatchObject({ status: 404 });
  await expect(groupMembers(db, reaching, other, null)).rejects.toMatchObject({ status: 404 });
  for (const refused of [
    () => makeGroup(db, reaching, { name: 'Theirs', rule: null }),
    () => alterGroup(db, reaching, mine, { name: 'Theirs' }),
    () => addMembers(db, reaching, mine, { ids: [2], lines: [] }),
    () => removeMember(db, reaching, mine, 2),
    () => deleteGroup(db, reaching, mine),
    () => ruleOutcome(db, reaching, drivers, mine),
  ])
    await expect(refused()).rejects.toMatchObject({ status: 403 });
  await expect(makeGroup(db, coordinator, { name: 'mine', rule: null })).rejects.toMatchObject({
    errors: [{ field: 'name' }],
  });
});

it('tells as an event who really came in or went out, once, and nothing of what changed nothing', async () => {
  const id = await makeGroup(db, coordinator, { name: 'Told of', rule: null });
  const [ada, bo] = [people[6]!, people[7]!];
  await addMembers(db, coordinator, id, { ids: [ada], lines: [] });
  await Promise.all(
    Array.from({ length: 4 }, () => addMembers(db, coordinator, id, { ids: [ada, bo], lines: [] })),
  );
  await removeMember(db, coordinator, id, ada);
  await expect(removeMember(db, coordinator, id, ada)).rejects.toMatchObject({ status: 404 });
  const told = await rows<{ detail: string }>(
    db,
    "SELECT detail FROM events WHERE kind = 'group.membership changed' AND subject = ? ORDER BY id",
    [`group:${id}`],
  );
  expect(told.map((each) => JSON.parse(each.detail) as unknown)).toEqual([
    { group: id, joined: [ada], left: [] },
    { group: id, joined: [bo], left: [] },
    { group: id, joined: [], left: [ada] },
  ]);
});

it('is made of other groups, and never in a circle, however many write rules at once', async () => {
  const named = (id: number): Audience => ({ kind: 'group', id });
  const crew = await makeGroup(db, coordinator, { name: 'Boats', rule: drivers });
  const both = await makeGroup(db, coordinator, {
    name: 'Boats in the south',
    rule: { kind: 'all', of: [named(crew), south] },
  });
  const before = (await groupPage(db, coordinator, both)).people ?? 0;
  expect(before).toBeGreaterThan(0);
  expect((await groupPage(db, coordinator, crew)).uses).toContainEqual({
    kind: 'group',
    name: 'Boats in the south',
    path: `/groups/${both}`,
  });
  await expect(deleteGroup(db, coordinator, crew)).rejects.toMatchObject({ status: 409 });
  // What changes below shows above, and by plain code too.
  await alterGroup(db, coordinator, crew, { rule: { kind: 'any', of: [drivers, south] } });
  expect((await groupPage(db, coordinator, both)).people).toBe(20);
  const now = await audienceContext(db);
  const facts = await factsOf(db, people, named(both), now);
  expect([...facts.values()].filter((person) => includes(named(both), person, now))).toHaveLength(20);

  const refused = await alterGroup(db, coordinator, crew, { rule: named(both) }).catch(
    (error: unknown) => error,
  );
  expect(refused).toMatchObject({ status: 422, errors: [{ field: 'rule' }] });
  expect(String(refused)).toContain(
    '“Boats”, which is made of “Boats in the south”, which is made of “Boats”',
  );
  await expect(alterGroup(db, coordinator, crew, { rule: named(crew) })).rejects.toThrow(/the group itself/);
  await expect(makeGroup(db, coordinator, { name: 'Of none', rule: named(9_999) })).rejects.toMatchObject({
    status: 422,
  });

  // Two that would lead to each other, written at the same moment: one of them is refused.
  const [left, right] = [
    await makeGroup(db, coordinator, { name: 'Left', rule: drivers }),
    await makeGroup(db, coordinator, { name: 'Right', rule: drivers }),
  ];
  const both2 = await Promise.allSettled([
    alterGroup(db, coordinator, left, { rule: named(right) }),
    alterGroup(db, coordinator, right, { rule: named(left) }),
  ]);
  expect(both2.map((each) => each.status).sort()).toEqual(['fulfilled', 'rejected']);
  // Were there one all the same, nobody would be in it rather than everything standing still.
  await db('groups')
    .where({ id: left })
    .update({ rule: JSON.stringify(named(right)) });
  await db('groups')
    .where({ id: right })
    .update({ rule: JSON.stringify(named(left)) });
  expect((await groupPage(db, coordinator, left)).people).toBeNull();
  await alterGroup(db, coordinator, left, { rule: drivers });
  expect((await groupPage(db, coordinator, right)).people).toBe(
    (await groupPage(db, coordinator, left)).people,
  );
});

it('begins with whoever a sentence names at that moment, and stays so', async () => {
  const id = await makeGroup(db, coordinator, { name: 'Southerners of today', rule: null, begin: south });
  expect((await groupPage(db, coordinator, id)).people).toBe(20);
  await alterPerson(db, coordinator, people[0]!, { stationId: 2 });
  expect(await groupPage(db, coordinator, id)).toMatchObject({ people: 20, kind: 'fixed' });
  await alterPerson(db, coordinator, people[0]!, { stationId: 1 });
});

it('archived is offered nowhere, keeps who is in it and what speaks of it, and comes back', async () => {
  const id = await makeGroup(db, coordinator, { name: 'Old crew', rule: null, begin: south });
  const occurrenceId = await sendNow(db, { audience: { kind: 'group', id } });
  await expandNow(db, occurrenceId);
  const page = await groupPage(db, coordinator, id);
  expect(page.lately).toMatchObject({ sent: 1, latest: [{ id: occurrenceId }] });
  await alterGroup(db, coordinator, id, { about: 'Those who rowed' });
  const offered = async () =>
    (await audienceChoices(db, coordinator)).groups.some((group) => group.id === id);
  expect(await offered()).toBe(true);
  await archiveGroup(db, coordinator, id, true);
  await archiveGroup(db, coordinator, id, true);
  expect(await offered()).toBe(false);
  // What speaks of it still tells its name.
  expect((await audienceChoices(db, coordinator)).archived).toContainEqual({ id, name: 'Old crew' });
  expect(await groupPage(db, coordinator, id)).toMatchObject({
    archived: true,
    people: 20,
    about: 'Those who rowed',
  });
  expect((await listGroups(db, coordinator)).find((group) => group.id === id)?.archived).toBe(true);
  expect((await findByName(db, coordinator, 'Old crew')).filter((found) => found.kind === 'group')).toEqual(
    [],
  );
  await archiveGroup(db, coordinator, id, false);
  expect(await offered()).toBe(true);
  await expect(archiveGroup(db, editor, id, true)).rejects.toMatchObject({ status: 403 });
  expect(await db('audit').where({ subject: 'group', subject_id: id }).pluck('action')).toEqual([
    'make group',
    'say what group is for',
    'archive group',
    'bring back group',
  ]);
});

it('does not tell who has voted in a poll without names while it is open', async () => {
  const occurrenceId = await sendNow(db, {
    audience: south,
    ask: {
      kind: 'poll',
      poll: {
        ...EMPTY_POLL,
        question: 'Which day?',
        anonymous: true,
        options: ['Monday', 'Tuesday'].map((label) => ({ label, at: null })),
      },
      deadline: null,
      within: 48,
      chase: null,
      joiners: false,
    },
  });
  await expandNow(db, occurrenceId);
  const voted: Audience = { kind: 'answered', occurrenceId, answered: true };
  for (const tells of [
    () => makeGroup(db, coordinator, { name: 'Voters', rule: voted }),
    () => makeGroup(db, coordinator, { name: 'Voters', rule: null, begin: voted }),
    () => ruleOutcome(db, coordinator, { kind: 'any', of: [voted, south] }, null),
    () => listPeople(db, coordinator, { audience: voted }),
  ])
    await expect(tells()).rejects.toMatchObject({ status: 422 });
  await db('asks')
    .where({ occurrence_id: occurrenceId })
    .update({ closed_at: db.raw('NOW(3)') });
  await expect(ruleOutcome(db, coordinator, voted, null)).resolves.toMatchObject({ people: 0 });
});

it('the list counts each group as its own page does', async () => {
  const lines = await listGroups(db, coordinator);
  expect(new Set(lines.map((line) => line.kind))).toEqual(new Set(['fixed', 'live']));
  for (const line of lines)
    expect(line.people, line.name).toBe((await groupPage(db, coordinator, line.id)).people);
});
