import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { EMPTY_POLL } from '../../src/core/asks/poll/poll.ts';
import { passwordByMail, setPassword } from '../../src/server/accounts/store.ts';
import { personByMail } from '../../src/server/access/store.ts';
import { answer } from '../../src/server/asks/answering.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { peopleCalled } from '../../src/server/groups/memberStore.ts';
import { addRows, beginImport, compareImport, importLines } from '../../src/server/imports/service.ts';
import {
  addAddress,
  listAddresses,
  preferAddress,
  removeAddress,
} from '../../src/server/people/addresses.ts';
import { mergedInto, mergeOutlook, mergePeople } from '../../src/server/people/merging.ts';
import { APART, ENDED, MOVED } from '../../src/server/people/mergingStore.ts';
import { addPerson, alterPerson, listPeople } from '../../src/server/people/service.ts';
import { personById } from '../../src/server/people/store.ts';
import { expandNow } from './expandNow.ts';
import { addGroup, addPeople, coordinator, countOf, freshDatabase, SECRET, sendNow } from './world.ts';

let db: Database;
let people: number[];
beforeAll(async () => {
  ({ db } = await freshDatabase('merging'));
  people = await addPeople(db, 20);
});
afterAll(() => db.destroy());

const nameOf = async (id: number): Promise<string> => (await personById(db, id))?.name ?? '';
const member = (id: number) => ({
  id,
  role: 'member' as const,
  moderates: new Set<number>(),
  mayReach: new Set<number>(),
});
const merge = async (keep: number, other: number) =>
  mergePeople(db, coordinator, { keep, other, name: await nameOf(other) });

describe('further addresses', () => {
  it('are one person’s alone, find them everywhere, and can become the one mail goes to', async () => {
    const [mine = 0, others = 0] = people;
    const before = (await personById(db, mine))?.mail ?? '';
    await addAddress(db, coordinator, mine, ' Second@Home.example ');
    await setPassword(db, mine, 'hash');
    expect((await passwordByMail(db, 'second@home.example'))?.personId).toBe(mine);
    expect(await personByMail(db, 'second@home.example')).toBe(mine);
    expect(await peopleCalled(db, ['second@home.example', before])).toEqual(
      new Map([
        ['second@home.example', [mine]],
        [before, [mine]],
      ]),
    );
    const found = await listPeople(db, coordinator, { search: 'second@home' });
    expect(found.people.map((person) => person.id)).toEqual([mine]);
    // A row of a list under it is theirs, and changes no address.
    const list = await beginImport(db, coordinator, {
      fileName: 'a.csv',
      columns: {},
      dateOrder: 'day first',
    });
    await addRows(db, coordinator, list, [
      { line: 1, name: await nameOf(mine), mail: 'SECOND@home.example', occupation: 'carver' },
    ]);
    await compareImport(db, coordinator, list);
    const lines = await importLines(db, coordinator, list, 'changed', 0);
    expect(lines.lines[0]).toMatchObject({
      personId: mine,
      changes: [{ what: 'occupation', to: 'carver' }],
    });
    for (const taken of [
      () => addAddress(db, coordinator, others, 'second@home.example'),
      () => addAddress(db, coordinator, mine, before),
      () => alterPerson(db, coordinator, others, { mail: 'second@home.example' }),
      () =>
        addPerson(
          db,
          coordinator,
          { name: 'New', mail: 'second@home.example', role: 'member', stationId: null },
          'UTC',
        ),
    ])
      await expect(taken()).rejects.toMatchObject({ status: 422, errors: [{ field: 'mail' }] });
    const [address] = await listAddresses(db, coordinator, mine);
    await preferAddress(db, coordinator, mine, address?.id ?? 0);
    expect((await personById(db, mine))?.mail).toBe('second@home.example');
    const [old] = await listAddresses(db, coordinator, mine);
    expect(old?.mail).toBe(before);
    await expect(removeAddress(db, coordinator, others, old?.id ?? 0)).rejects.toMatchObject({ status: 404 });
    await preferAddress(db, coordinator, mine, old?.id ?? 0);
    await expect(listAddresses(db, member(mine), mine)).rejects.toMatchObject({ status: 403 });
  });

  it('asked for by two at once is given to one', async () => {
    const done = await Promise.allSettled(
      people.slice(2, 8).map((id) => addAddress(db, coordinator, id, 'wanted@home.example')),
    );
    expect(done.filter((each) => each.status === 'fulfilled')).toHaveLength(1);
    for (const each of done)
      if (each.status === 'rejected') expect(each.reason).toMatchObject({ status: 422 });
  });
});

describe('two entries of one person', () => {
  it('have every place in the database where people are named thought of', async () => {
    const found = await rows<{ place: string }>(
      db,
      `SELECT CONCAT(TABLE_NAME, '.', COLUMN_NAME) AS place FROM information_schema.KEY_COLUMN_USAGE
       WHERE TABLE_SCHEMA = DATABASE() AND REFERENCED_TABLE_NAME = 'people'
       UNION SELECT CONCAT(TABLE_NAME, '.', COLUMN_NAME) FROM information_schema.COLUMNS
       WHERE TABLE_SCHEMA = DATABASE() AND COLUMN_NAME IN ('person_id', 'author_id', 'reporter_id', 'actor_id')`,
    );
    const known = new Set([
      ...MOVED.map(([table, column]) => `${table}.${column}`),
      ...ENDED.map((table) => `${table}.person_id`),
      ...APART,
    ]);
    expect(found.map(({ place }) => place).filter((place) => !known.has(place))).toEqual([]);
  });

  it('become one: what is theirs moves, what both have stays counted, and who signed in as the other is out', async () => {
    const [keep = 0, other = 0, third = 0] = people.slice(10);
    const group = await addGroup(db, 'Of the other', [other]);
    const both = await addGroup(db, 'Of both', [keep, other]);
    const rule = await addGroup(db, 'Named by rule', { kind: 'person', id: other });
    await alterPerson(db, coordinator, keep, { occupation: '' });
    await alterPerson(db, coordinator, other, { occupation: 'carver', joinedOn: '2001-02-03' });
    const toBoth = await sendNow(db, { audience: { kind: 'group', id: both } });
    await expandNow(db, toBoth);
    const poll = await sendNow(db, {
      audience: { kind: 'group', id: group },
      ask: {
        kind: 'poll',
        poll: {
          ...EMPTY_POLL,
          question: 'Tea?',
          options: ['Yes', 'No'].map((label) => ({ label, at: null })),
        },
        deadline: null,
        within: 48,
        chase: null,
        joiners: false,
      },
    });
    await expandNow(db, poll);
    await answer(db, SECRET, other, poll, { choices: [1] }, 'page');
    await db('sessions').insert({
      token_hash: Buffer.alloc(32, 5),
      person_id: other,
      expires_at: '2099-01-01',
    });
    const mail = (await personById(db, other))?.mail ?? '';
    const counts = () =>
      Promise.all([
        countOf(db, 'FROM deliveries WHERE occurrence_id IN (?, ?)', [toBoth, poll]),
        countOf(db, 'FROM roll WHERE occurrence_id = ?', [poll]),
        countOf(db, 'FROM ballots WHERE occurrence_id = ?', [poll]),
      ]);
    const before = await counts();
    expect(await mergeOutlook(db, coordinator, other)).toMatchObject({ received: 2, groups: 2 });

    await expect(mergePeople(db, coordinator, { keep, other, name: 'Somebody else' })).rejects.toMatchObject({
      status: 422,
      errors: [{ field: 'name' }],
    });
    await merge(keep, other);

    expect(await counts()).toEqual(before);
    expect(await personById(db, keep)).toMatchObject({ occupation: 'carver', joinedOn: '2001-02-03' });
    expect((await listAddresses(db, coordinator, keep)).map((each) => each.mail)).toContain(mail);
    expect(
      await rows(db, 'SELECT group_id AS id FROM group_members WHERE person_id = ? ORDER BY id', [keep]),
    ).toEqual([{ id: group }, { id: both }]);
    expect(await countOf(db, 'FROM group_members WHERE person_id = ?', [other])).toBe(0);
    expect(await countOf(db, 'FROM sessions WHERE person_id = ?', [other])).toBe(0);
    expect(await db('groups').where({ id: rule }).first('rule')).toEqual({
      rule: JSON.stringify({ kind: 'person', id: keep }),
    });
    // The poll only the other had is whoever stays'; the announcement both had stands under each.
    expect(await countOf(db, 'FROM roll WHERE occurrence_id = ? AND person_id = ?', [poll, keep])).toBe(1);
    expect(await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'", [toBoth])).toBe(
      2,
    );
    // Whoever stays can change the vote, and has none besides.
    await answer(db, SECRET, keep, poll, { choices: [2] }, 'page');
    expect((await counts())[2]).toBe(1);
    expect(await mergedInto(db, other)).toBe(keep);
    expect((await listPeople(db, coordinator, { search: mail })).people.map((each) => each.id)).toEqual([
      keep,
    ]);
    // It is no entry any more, and cannot be merged again; merged further, the way still leads to whoever stays.
    await expect(merge(third, other)).rejects.toMatchObject({ status: 404 });
    await merge(third, keep);
    expect(await mergedInto(db, other)).toBe(third);
  });

  it('are not merged where that would take a right or a source out of hand', async () => {
    const [keep = 0, other = 0] = people.slice(15);
    await expect(merge(keep, keep)).rejects.toMatchObject({ status: 422 });
    await expect(merge(keep, coordinator.id)).rejects.toMatchObject({ status: 409 });
    await db('people').where({ id: other }).update({ role: 'coordinator' });
    await expect(merge(keep, other)).rejects.toThrow(/coordinator/);
    await db('people').where({ id: other }).update({ role: 'member' });
    const [client] = await db('scim_clients').insert({
      name: 'Personnel',
      token_hash: Buffer.alloc(32, 3),
      made_by: coordinator.id,
    });
    await db('scim_users').insert({ person_id: other, client_id: client, user_name: 'other', more: '{}' });
    await expect(merge(keep, other)).rejects.toThrow(/the other way round/);
    await expect(merge(other, keep)).resolves.toMatchObject({ id: other });
    await expect(
      mergePeople(db, member(other), { keep: other, other: people[17] ?? 0, name: 'x' }),
    ).rejects.toMatchObject({ status: 403 });
  });
});
