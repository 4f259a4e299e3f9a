import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Session } from '../../src/server/accounts/service.ts';
import { auditCsv, auditPage } from '../../src/server/audit/service.ts';
import { record } from '../../src/server/audit/store.ts';
import { SUBJECTS } from '../../src/core/audit/deeds.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { invite } from '../../src/server/access/service.ts';
import {
  alterOrganisation,
  chooseStep,
  firstSteps,
  stepsToDo,
} from '../../src/server/first-steps/service.ts';
import { personForDesk } from '../../src/server/people/page.ts';
import { rightsPage } from '../../src/server/people/rights.ts';
import { alterPerson, changeReach, changeStanding } from '../../src/server/people/service.ts';
import { addGroup, addPeople, coordinator, freshDatabase } from './world.ts';

let db: Database;
let driver = 0;
let curator = 0;
let session: Session;
beforeAll(async () => {
  ({ db } = await freshDatabase('directory'));
  [driver = 0, curator = 0] = await addPeople(db, 4);
  session = { actor: coordinator, name: 'Maud Fenwright', zone: 'Pacific/Auckland', owns: false };
});
afterAll(() => db.destroy());

describe('the page of a person', () => {
  it('says what they are in and why, and what was done with them, by whom', async () => {
    const drivers = await addGroup(db, 'Drivers', { kind: 'occupation', occupation: 'driver' });
    const picked = await addGroup(db, 'Picked', [driver, curator]);
    await addGroup(db, 'Others', [curator]);
    await db('groups').insert({ name: 'Unreadable', kind: 'live', rule: '{"kind":"what"}' });
    await db('group_owners').insert({ group_id: picked, person_id: driver });
    await alterPerson(db, coordinator, driver, {
      joinedOn: '2025-02-03',
      attributes: [{ name: 'Licence', value: 'lorry' }],
    });
    const page = await personForDesk(db, coordinator, driver);
    expect(page.groups).toEqual([
      { id: drivers, name: 'Drivers', why: 'by its rule: every driver' },
      { id: picked, name: 'Picked', why: 'picked by hand' },
    ]);
    expect(page).toMatchObject({
      person: { joinedOn: '2025-02-03' },
      attributes: [{ name: 'Licence', value: 'lorry' }],
      owns: [{ id: picked, name: 'Picked' }],
      access: { state: 'not invited' },
      sessions: 0,
    });
    expect(page.history).toMatchObject([
      { by: 'Maud Fenwright', words: expect.stringMatching(/^changed Person/) as unknown },
    ]);
    // Taken out one by one: what is left out of a change stays as it is.
    await alterPerson(db, coordinator, driver, { occupation: 'baker' });
    expect((await personForDesk(db, coordinator, driver)).attributes).toHaveLength(1);
    expect((await personForDesk(db, coordinator, driver)).groups.map((group) => group.name)).toEqual([
      'Picked',
    ]);
    await changeStanding(db, coordinator, driver, true);
    expect((await personForDesk(db, coordinator, driver)).groups).toEqual([]);
    await changeStanding(db, coordinator, driver, false);
  });

  it('is for coordinators, and not of linked contacts', async () => {
    const editor = { ...coordinator, role: 'editor' as const };
    await expect(personForDesk(db, editor, driver)).rejects.toMatchObject({ status: 403 });
    const [contact = 0] = await db('people').insert({
      name: 'A mother',
      linked_to: driver,
      zone: 'UTC',
      joined_on: '2020-01-01',
    });
    await expect(personForDesk(db, coordinator, contact)).rejects.toMatchObject({ status: 404 });
  });
});

describe('rights', () => {
  it('an editor writes to the groups a coordinator chooses, and only an editor has such', async () => {
    const group = await addGroup(db, 'Reached', [curator]);
    await expect(changeReach(db, coordinator, curator, [group])).rejects.toMatchObject({ status: 409 });
    await alterPerson(db, coordinator, curator, { role: 'editor' });
    await expect(changeReach(db, coordinator, curator, [group, 999_999])).rejects.toMatchObject({
      status: 422,
    });
    await changeReach(db, coordinator, curator, [group, group]);
    const rights = await rightsPage(db, coordinator);
    expect(rights.coordinators).toEqual([{ id: 1, name: 'Maud Fenwright' }]);
    expect(rights.editors).toMatchObject([{ id: curator, reach: [{ id: group, name: 'Reached' }] }]);
    await expect(alterPerson(db, coordinator, 1, { role: 'member' })).rejects.toMatchObject({ status: 422 });
    await expect(rightsPage(db, { ...coordinator, role: 'editor' })).rejects.toMatchObject({ status: 403 });
  });
});

describe('first steps', () => {
  it('are done by what there is, and left for later by choice', async () => {
    const { db: fresh } = await freshDatabase('first_steps');
    await fresh('people').update({ first_in_at: '2026-01-01' });
    const states = async () =>
      Object.fromEntries(
        (await firstSteps(fresh, coordinator)).steps.map(({ step, state }) => [step, state]),
      );
    expect(await states()).toEqual({
      you: 'done',
      organisation: 'done',
      people: 'to do',
      'group and board': 'to do',
      announcement: 'to do',
    });
    expect(await stepsToDo(fresh, coordinator)).toBe(3);
    await chooseStep(fresh, coordinator, 'announcement', true);
    expect(await states()).toMatchObject({ announcement: 'left for later' });
    expect(await stepsToDo(fresh, coordinator)).toBe(2);
    await chooseStep(fresh, coordinator, 'announcement', false);
    const [one = 0] = await addPeople(fresh, 2);
    expect(await states()).toMatchObject({ people: 'to do' });
    await invite(fresh, coordinator, { to: { kind: 'people', ids: [one] }, words: '' });
    expect(await states()).toMatchObject({ people: 'done' });
    await alterOrganisation(fresh, coordinator, { name: 'New Name', zone: 'Asia/Kathmandu' });
    expect((await firstSteps(fresh, coordinator)).organisation).toEqual({
      name: 'New Name',
      zone: 'Asia/Kathmandu',
    });
    expect(await stepsToDo(fresh, { ...coordinator, role: 'editor' })).toBe(0);
    await fresh.destroy();
  });
});

describe('the audit trail', () => {
  it('is found by name, kind and day on the reader’s clock, page by page without gap, and as a CSV', async () => {
    await db('audit').delete();
    for (let i = 0; i < 230; i++)
      await record(db, {
        actorId: i % 2 === 0 ? 1 : driver,
        action: 'add',
        subject: 'person',
        subjectId: curator,
      });
    await record(db, { actorId: null, action: 'never heard of', subject: 'board', subjectId: 99 });
    for (const subject of SUBJECTS)
      await record(db, { actorId: 1, action: 'known of', subject, subjectId: 1 });
    const all = { search: '', subject: null, from: null, to: null };
    // Whatever a deed is about can be named.
    expect((await auditPage(db, session, all, null)).lines).toHaveLength(100);
    await db('audit').where({ action: 'known of' }).delete();
    const seen: number[] = [];
    for (let before: number | null = null; ;) {
      const page = await auditPage(db, session, all, before);
      seen.push(...page.lines.map((line) => line.id));
      if (page.next === null) break;
      before = page.next;
    }
    expect(seen).toHaveLength(231);
    expect(seen).toEqual([...new Set(seen)].sort((a, b) => b - a));
    const [latest] = (await auditPage(db, session, all, null)).lines;
    expect(latest).toMatchObject({ actor: null, words: 'never heard of' });
    expect((await auditPage(db, session, { ...all, subject: 'board' }, null)).lines).toHaveLength(1);
    // By the name of who did it, or of whom it was done to.
    expect(
      (await auditPage(db, session, { ...all, search: 'maud' }, null)).lines.every(
        (line) => line.actor?.id === 1,
      ),
    ).toBe(true);
    const [whom] = await rows<{ name: string }>(db, 'SELECT name FROM people WHERE id = ?', [curator]);
    expect((await auditPage(db, session, { ...all, search: whom?.name ?? '' }, null)).lines).toHaveLength(
      100,
    );
    expect((await auditPage(db, session, { ...all, search: '100%_' }, null)).lines).toHaveLength(0);

    // 23:30 UTC is the next day in Auckland.
    await db('audit').update({ at: '2026-03-01 23:30:00' });
    await db('audit').where({ subject: 'board' }).update({ at: '2026-03-01 10:30:00' });
    const on = (from: string, to: string) => auditPage(db, session, { ...all, from, to }, null);
    expect((await on('2026-03-02', '2026-03-02')).lines.every((line) => line.subject === 'person')).toBe(
      true,
    );
    expect((await on('2026-03-01', '2026-03-01')).lines.map((line) => line.subject)).toEqual(['board']);
    const csv = await new Response(auditCsv(db, session, all)).text();
    expect(csv.trim().split('\r\n')).toHaveLength(232);
    expect(csv).toContain('Maud Fenwright,added Person');
    const editor = { ...session, actor: { ...coordinator, role: 'editor' as const } };
    await expect(auditPage(db, editor, all, null)).rejects.toMatchObject({ status: 403 });
    expect(() => auditCsv(db, editor, all)).toThrow('coordinator');
  });
});
