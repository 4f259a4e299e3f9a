import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Automation } from '../../src/core/automation/automation.ts';
import { briefOf } from '../../src/core/sends/forecast.ts';
import { plainSection } from '../../src/core/content/section.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { foldHandle } from '../../src/core/directory/identity.ts';
import { actorOf } from '../../src/server/accounts/actor.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { change, rows, type Database } from '../../src/server/database/connection.ts';
import { insertIdentity } from '../../src/server/identities/store.ts';
import { forecast } from '../../src/server/sends/forecast.ts';
import { addRecord, makeSheet } from '../../src/server/sheets/service.ts';
import { actIn, field, putToWork, runsIn, says } from './automating.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  followAll,
  freshDatabase,
  makeDue,
  plan,
  refusal,
  sendNow,
} from './world.ts';

let db: Database;
beforeAll(async () => {
  ({ db } = await freshDatabase('automation_calls'));
});
beforeEach(() => change(db, "UPDATE automations SET state = 'off'"));
afterAll(() => db.destroy());

let made = 0;
/** A board of a group with these people, and a sheet whose second column names a curator by a handle of the loans system. */
async function loans(): Promise<{ sheetId: number; board: number; group: number; people: number[] }> {
  const people = await addPeople(db, 4);
  const group = await addGroup(db, `Loans ${++made}`, people);
  const board = await insertBoard(db, {
    name: `Loans board ${made}`,
    about: 'Loans.',
    groupId: group,
    posting: 'moderators',
  });
  const column = (id: string, name: string) => ({ id, name, kind: 'text' as const, unit: '', choices: [] });
  const sheetId = await makeSheet(db, coordinator, {
    name: `Loans ${made}`,
    purpose: '',
    columns: [column('c1', 'Item'), column('c2', 'Curator')],
    form: null,
  });
  return { sheetId, board, group, people };
}

const tells = (board: number, otherwise: Automation['tell']['otherwise'] = null): Automation['tell'] => ({
  to: { kind: 'named', field: 'record.c2', system: 'loans' },
  boards: [board],
  outside: [],
  boardField: null,
  mail: false,
  otherwise,
});

/** Lets everything it has said go out. */
async function goOut(automationId: number): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    `SELECT y.occurrence_id AS id FROM automation_sayings y JOIN automation_runs r ON r.id = y.run_id
     WHERE r.automation_id = ? AND y.occurrence_id IS NOT NULL ORDER BY y.occurrence_id`,
    [automationId],
  );
  for (const { id } of found) {
    await makeDue(db, id);
    await expandNow(db, id);
  }
  await followAll(db);
  return found.map(({ id }) => id);
}

const calledBy = (occurrence: number): Promise<{ id: number; why: string }[]> =>
  rows(
    db,
    "SELECT person_id AS id, why FROM notices WHERE kind = 'mention' AND about = ? ORDER BY person_id",
    [`posted:${occurrence}`],
  );

const textOf = async (occurrence: number): Promise<string> => {
  const [version] = await rows<{ excerpt: string }>(
    db,
    `SELECT v.excerpt FROM occurrences o JOIN announcement_versions v ON v.id = o.version_id WHERE o.id = ?`,
    [occurrence],
  );
  return version?.excerpt ?? '';
};

describe('whom an automation calls on', () => {
  it('names the one it found, calls on everybody on the board, and nobody who has it in the inbox is called twice', async () => {
    const { sheetId, board, people } = await loans();
    const [curator, ...others] = people;
    const [named] = await rows<{ name: string }>(db, 'SELECT name FROM people WHERE id = ?', [curator!]);
    await insertIdentity(db, {
      personId: curator!,
      system: 'loans',
      value: `curator${made}`,
      folded: foldHandle(`curator${made}`),
    });
    const id = await putToWork(
      db,
      { kind: 'meets', sheetId, again: false },
      {
        if: { kind: 'test', field: 'record.c1', test: 'is filled in', against: { kind: 'value', value: '' } },
        tell: tells(board),
        content: {
          ...says(
            'A loan',
            field('mention.person'),
            ' looks at it. Seen by ',
            field('mention.everybody'),
            '.',
          ),
          importance: 'urgent',
        },
      },
    );
    await addRecord(db, coordinator, sheetId, { c1: 'A press', c2: `@curator${made}` });
    await actIn(db);
    const [occurrence] = await goOut(id);
    expect(await textOf(occurrence!)).toBe(
      `${named!.name} looks at it. Seen by everybody on Loans board ${made}.`,
    );
    // Others on the board are called there; whom it told by name has it in the inbox.
    expect((await calledBy(occurrence!)).map((each) => each.id)).toEqual(others);
  });

  it('says what stands instead where nobody is found, and asks for that before it is put to work', async () => {
    const { sheetId, board } = await loans();
    const part = (fallback: string): Partial<Automation> => ({
      if: { kind: 'test', field: 'record.c1', test: 'is filled in', against: { kind: 'value', value: '' } },
      tell: tells(board, { audience: null, boards: [board] }),
      content: says('A loan', field('mention.person', fallback), ' looks at it.'),
    });
    const when = { kind: 'meets', sheetId, again: false } as const;
    expect((await refusal(putToWork(db, when, part('')))).errors).toEqual([
      {
        field: 'content',
        detail: expect.stringContaining('whoever it tells or is about may be empty') as string,
      },
    ]);
    const id = await putToWork(db, when, part('Whoever is at the desk'));
    await addRecord(db, coordinator, sheetId, { c1: 'A press', c2: '@nobody' });
    await actIn(db);
    const [occurrence] = await goOut(id);
    expect(await textOf(occurrence!)).toBe('Whoever is at the desk looks at it.');
  });

  it('calls on everybody on a board, or on a whole group, only where its owner may: when put to work and at each run', async () => {
    const { sheetId, board, group, people } = await loans();
    const apart = await addGroup(db, `Apart ${made}`, people.slice(0, 1));
    const [own] = await addPeople(db, 1);
    await db('people').where({ id: own! }).update({ role: 'editor' });
    await db('group_members').insert({ group_id: group, person_id: own! });
    await change(db, 'INSERT INTO editor_reach (person_id, group_id) VALUES (?, ?)', [own!, group]);
    await change(db, "UPDATE boards SET posting = 'members', mentioning = 'members' WHERE id = ?", [board]);
    const editor = async (): Promise<Actor> => (await actorOf(db, own!))!;
    const when = { kind: 'meets', sheetId, again: false } as const;
    const part = (content: Automation['content']): Partial<Automation> => ({
      tell: { ...tells(board), to: { kind: 'audience', audience: { kind: 'group', id: group } } },
      content,
    });
    const groupCalled = says('Sent in', {
      type: 'mention',
      attrs: { kind: 'group', id: apart, label: 'Apart' },
    });
    expect((await refusal(putToWork(db, when, part(groupCalled), await editor()))).errors[0]?.detail).toBe(
      `You may not call on Apart ${made} at once. Name people, or take it out.`,
    );
    const id = await putToWork(
      db,
      when,
      {
        ...part(says('Complete', field('mention.everybody'))),
        if: { kind: 'test', field: 'record.c1', test: 'is filled in', against: { kind: 'value', value: '' } },
      },
      await editor(),
    );
    await change(db, "UPDATE boards SET mentioning = 'moderators' WHERE id = ?", [board]);
    await addRecord(db, coordinator, sheetId, { c1: 'A press' });
    await actIn(db);
    expect(await goOut(id)).toEqual([]);
    expect(await runsIn(db, id)).toMatchObject([{ state: 'held', said: 0, keptBack: 1 }]);
  });
});

describe('whom an announcement calls on, on boards', () => {
  it('tells those who see a board it stands on, and warns only of those who neither get nor see it', async () => {
    const { board, group, people } = await loans();
    const [seen, ...rest] = people;
    const [stranger] = await addPeople(db, 1);
    const mention = (kind: 'person' | 'group', id: number, label: string) => ({
      type: 'mention' as const,
      attrs: { kind, id, label },
    });
    const text = {
      sections: [
        plainSection({
          type: 'doc',
          content: [
            {
              type: 'paragraph',
              content: [mention('person', seen!, 'Seen'), mention('person', stranger!, 'Stranger')],
            },
          ],
        }),
      ],
    };
    const onBoard = plan({ audience: { kind: 'person', id: coordinator.id }, boards: [board], mail: false });
    const told = await forecast(db, coordinator, onBoard, briefOf(content(text)));
    expect(told.warnings.filter((each) => each.field === 'document')).toEqual([
      { field: 'document', detail: 'Stranger is mentioned and would not get it.' },
    ]);
    const occurrence = await sendNow(db, onBoard, { ...text, importance: 'urgent' });
    await expandNow(db, occurrence);
    await followAll(db);
    expect(await calledBy(occurrence)).toEqual([
      { id: seen, why: `You are called on by name on Loans board ${made}.` },
    ]);
    const whole = {
      sections: [
        plainSection({
          type: 'doc',
          content: [{ type: 'paragraph', content: [mention('group', group, 'Loans')] }],
        }),
      ],
    };
    const again = await sendNow(db, onBoard, { ...whole, importance: 'urgent' });
    await expandNow(db, again);
    await followAll(db);
    expect((await calledBy(again)).map(({ id }) => id)).toEqual([seen, ...rest]);
  });
});
