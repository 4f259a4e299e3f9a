import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { z } from 'zod';
import type { Doc } from '../../src/core/content/document.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import type { answerSchema, questionSchema } from '../../src/core/shelf/shelf.ts';
import type { Database } from '../../src/server/database/connection.ts';
import {
  addSubject,
  answersUnder,
  askShelf,
  best,
  changeAnswer,
  closeQuestion,
  countOpen,
  listSubjects,
  myQuestions,
  openAnswer,
  pointTo,
  publishToAll,
  removeAnswer,
  shelfDesk,
  shelfFront,
  writeAnswer,
} from '../../src/server/shelf/service.ts';
import { addPeople, coordinator, countOf, followAll, freshDatabase, refusal } from './world.ts';

const actor = (id: number, role: Actor['role'] = 'member'): Actor => ({
  id,
  role,
  moderates: new Set(),
  mayReach: new Set(),
});
const said = (text: string): Doc => ({
  type: 'doc',
  content: [{ type: 'paragraph', content: [{ type: 'text', text }] }],
});
let db: Database;
let people: number[];
let keys: number;

beforeAll(async () => {
  ({ db } = await freshDatabase('shelf'));
  people = await addPeople(db, 8);
  keys = await addSubject(db, coordinator, { name: 'Keys and doors', parentId: null });
});
afterAll(() => db.destroy());

const question = (part: Partial<z.infer<typeof questionSchema>> = {}): z.infer<typeof questionSchema> => ({
  text: 'Who has the key of the drying room?',
  helpedBy: null,
  found: 0,
  offered: [],
  note: '',
  named: false,
  ...part,
});
const answer = (part: Partial<z.infer<typeof answerSchema>> = {}): z.infer<typeof answerSchema> => ({
  question: 'Where are the keys of the drying rooms?',
  document: said('In the cupboard beside the stove.'),
  subjectId: keys,
  occurrenceId: null,
  published: true,
  settles: null,
  boardId: null,
  ...part,
});
const ask = (who: number, part: Partial<z.infer<typeof questionSchema>> = {}, key: string = randomUUID()) =>
  askShelf(db, actor(who), question(part), key);
const noticesOf = (who: number): Promise<number> =>
  countOf(db, "FROM notices WHERE person_id = ? AND path LIKE '/shelf%'", [who]);

describe('a question', () => {
  it('sent twice is asked once, and is seen by whoever asked and by coordinators alone', async () => {
    const [one = 0, other = 0] = people;
    const key = randomUUID();
    const both = await Promise.all([ask(one, {}, key), ask(one, {}, key)]);
    expect(both[0].id).toBe(both[1].id);
    const mine = await myQuestions(db, actor(one));
    expect(mine.map(({ id, state, reason }) => ({ id, state, reason }))).toEqual([
      { id: both[0].id, state: 'open', reason: null },
    ]);
    expect(await myQuestions(db, actor(other))).toEqual([]);
    expect((await shelfDesk(db, coordinator)).open.map(({ id }) => id)).toContain(both[0].id);
    for (const role of ['member', 'editor'] as const)
      expect((await refusal(shelfDesk(db, actor(other, role)))).status).toBe(403);
  });

  it('asked again brings its note along and says what became of the one before', async () => {
    const [, , who = 0] = people;
    const first = await ask(who, { text: 'May dogs come along?', note: 'I read the house rules.' });
    await closeQuestion(db, coordinator, first.id, 'Ask your station: each has its own rule.');
    const again = await ask(who, { text: '  may DOGS come along ' });
    const [latest, before] = await myQuestions(db, actor(who));
    expect(latest).toMatchObject({ id: again.id, state: 'open', note: 'I read the house rules.' });
    expect(before).toMatchObject({
      id: first.id,
      state: 'closed',
      reason: 'Ask your station: each has its own rule.',
    });
    const desk = (await shelfDesk(db, coordinator)).open.find(({ id }) => id === again.id);
    expect(desk?.before).toMatchObject({ id: first.id, state: 'closed' });
  });

  it('is ended once: of an answer and a closing at the same moment one holds, and the asker is told once', async () => {
    const [, , , who = 0] = people;
    const standing = await writeAnswer(db, coordinator, answer());
    for (let round = 0; round < 4; round++) {
      const { id } = await ask(who, { text: `Where is ladder ${round}?` });
      await followAll(db);
      const told = await noticesOf(who);
      const ends = await Promise.allSettled([
        pointTo(db, coordinator, id, standing),
        closeQuestion(db, coordinator, id, 'There is none.'),
        writeAnswer(db, coordinator, answer({ settles: id, published: false })),
      ]);
      expect(ends.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
      for (const end of ends)
        if (end.status === 'rejected') expect(end.reason).toMatchObject({ status: 409 });
      await followAll(db);
      expect((await noticesOf(who)) - told).toBe(1);
      const asked = (await myQuestions(db, actor(who))).find((each) => each.id === id);
      expect(asked?.state === 'answered' ? asked.answerId !== null : asked?.reason === 'There is none.').toBe(
        true,
      );
    }
    // What was written for a question that was ended otherwise is not there.
    expect(await countOf(db, "FROM shelf_questions WHERE state = 'open' AND person_id = ?", [who])).toBe(0);
    expect(
      await countOf(
        db,
        'FROM shelf_answers a WHERE a.published_at IS NULL AND NOT EXISTS (SELECT 1 FROM shelf_questions q WHERE q.answer_id = a.id)',
      ),
    ).toBe(0);
  });

  it('counts among the open ones until it is ended, and names its asker only where they let it', async () => {
    const [, , , , named = 0, unnamed = 0] = people;
    const before = await countOpen(db);
    const [a, b] = [
      await ask(named, { text: 'When is the boat out?', named: true }),
      await ask(unnamed, { text: 'When does the boat go out?' }),
    ];
    expect(await countOpen(db)).toBe(before + 2);
    const boat = await writeAnswer(
      db,
      coordinator,
      answer({ question: 'When is the boat out?', settles: a.id }),
    );
    await pointTo(db, coordinator, b.id, boat);
    expect(await countOpen(db)).toBe(before);
    const [{ name }] = (await db('people').where({ id: named }).select('name')) as [{ name: string }];
    expect((await openAnswer(db, actor(unnamed), boat)).askedBy).toEqual([name]);
  });
});

describe('an answer', () => {
  it('that is not published is read by whoever asked and by coordinators, and by all once it is', async () => {
    const [one = 0, other = 0] = people;
    const { id } = await ask(one, { text: 'Is there a spare rope?' });
    const rope = await writeAnswer(
      db,
      coordinator,
      answer({ question: 'Is there a spare rope?', settles: id, published: false }),
    );
    expect((await openAnswer(db, actor(one), rope)).published).toBe(false);
    expect((await openAnswer(db, coordinator, rope)).published).toBe(false);
    expect((await refusal(openAnswer(db, actor(other), rope))).status).toBe(404);
    const everywhere = async (): Promise<boolean[]> => [
      (await answersUnder(db, keys)).some((each) => each.id === rope),
      (await best(db, 'a spare rope')).some((each) => each.id === rope),
      (await shelfFront(db)).newest.some((each) => each.id === rope),
      (await shelfFront(db)).most.some((each) => each.id === rope),
      (await shelfDesk(db, coordinator)).all.some((each) => each.id === rope),
      (await shelfDesk(db, coordinator)).mostAsked.some((each) => each.id === rope),
    ];
    await followAll(db);
    expect(await everywhere()).toEqual([false, false, false, false, false, false]);
    expect((await shelfDesk(db, coordinator)).unpublished.map((each) => each.id)).toContain(rope);
    await publishToAll(db, coordinator, rope);
    await publishToAll(db, coordinator, rope);
    await followAll(db);
    expect(await everywhere()).toEqual([true, true, true, true, true, true]);
    expect((await openAnswer(db, actor(other), rope)).published).toBe(true);
    expect(await countOf(db, "FROM audit WHERE action = 'publish answer' AND subject_id = ?", [rope])).toBe(
      1,
    );
  });

  it('is asked for most by how often it was what was looked for, and is found by what it says now', async () => {
    const [one = 0, other = 0] = people;
    const stove = await writeAnswer(db, coordinator, answer({ question: 'How is the stove lit?' }));
    const lamp = await writeAnswer(db, coordinator, answer({ question: 'How is the lamp lit?' }));
    for (const who of [one, other, one]) await ask(who, { text: 'How is it lit?', helpedBy: lamp });
    await ask(other, { text: 'How is it lit?', helpedBy: stove });
    const order = (await shelfFront(db)).most.map(({ id }) => id).filter((id) => [stove, lamp].includes(id));
    expect(order).toEqual([lamp, stove]);
    // What helped is no question for anybody at the desk.
    expect((await shelfDesk(db, coordinator)).open.map(({ text }) => text)).not.toContain('How is it lit?');
    await changeAnswer(db, coordinator, lamp, answer({ question: 'How is the lantern lit?' }));
    await followAll(db);
    expect((await best(db, 'lantern')).map(({ id }) => id)).toEqual([lamp]);
    await removeAnswer(db, coordinator, lamp);
    expect(await best(db, 'lantern')).toEqual([]);
    expect((await refusal(openAnswer(db, coordinator, lamp))).status).toBe(404);
  });

  it('and all of the shelf is written by coordinators alone', async () => {
    const editor = actor(people[6] ?? 0, 'editor');
    const there = await writeAnswer(db, coordinator, answer({ question: 'Who winds the clock?' }));
    const { id } = await ask(people[7] ?? 0, { text: 'Who winds the clock?' });
    for (const work of [
      () => writeAnswer(db, editor, answer()),
      () => changeAnswer(db, editor, there, answer()),
      () => publishToAll(db, editor, there),
      () => removeAnswer(db, editor, there),
      () => pointTo(db, editor, id, there),
      () => closeQuestion(db, editor, id, 'Nobody does.'),
      () => addSubject(db, editor, { name: 'Clocks', parentId: null }),
    ])
      expect((await refusal(work())).status).toBe(403);
    expect((await openAnswer(db, coordinator, there)).question).toBe('Who winds the clock?');
  });
});

describe('a subject', () => {
  it('stands in one that stands by itself, once by its name, and counts what is in narrower ones', async () => {
    const rooms = await addSubject(db, coordinator, { name: 'Rooms', parentId: null });
    const drying = await addSubject(db, coordinator, { name: 'Drying rooms', parentId: rooms });
    for (const [name, parentId, field] of [
      ['Shelves', drying, 'parentId'],
      ['rooms', null, 'name'],
      ['Racks', 9_999, 'parentId'],
    ] as const) {
      const problem = await refusal(addSubject(db, coordinator, { name, parentId }));
      expect(problem.status).toBe(422);
      expect(problem.errors).toEqual([expect.objectContaining({ field })]);
    }
    await writeAnswer(db, coordinator, answer({ question: 'How warm is it?', subjectId: drying }));
    await writeAnswer(db, coordinator, answer({ question: 'How large is it?', subjectId: rooms }));
    await writeAnswer(
      db,
      coordinator,
      answer({ question: 'Is it damp?', subjectId: drying, published: false }),
    );
    const counted = (await listSubjects(db)).filter((each) => [rooms, drying].includes(each.id));
    expect(Object.fromEntries(counted.map((each) => [each.id, each.answers]))).toEqual({
      [rooms]: 2,
      [drying]: 1,
    });
    expect((await answersUnder(db, rooms)).map((each) => each.question).sort()).toEqual([
      'How large is it?',
      'How warm is it?',
    ]);
    expect((await answersUnder(db, drying)).map((each) => each.question)).toEqual(['How warm is it?']);
  });
});
