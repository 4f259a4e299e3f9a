import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { askSchema } from '../../src/core/asks/ask.ts';
import type { Doc } from '../../src/core/content/document.ts';
import { meant } from '../../src/core/search/query.ts';
import { searchSchema } from '../../src/core/search/searchSchema.ts';
import { answerSchema, questionSchema } from '../../src/core/shelf/shelf.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { after } from '../../src/server/after/service.ts';
import { answer } from '../../src/server/asks/answering.ts';
import { archiveFile, boardFiles } from '../../src/server/board-files/service.ts';
import { boardForSession } from '../../src/server/boards/session.ts';
import { followBoard, listBoards } from '../../src/server/boards/service.ts';
import {
  appointModerator,
  boardSettings,
  placeFor,
  placeLinks,
  changeBoardSettings,
} from '../../src/server/boards/settings.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { linksOfContact, openForContact, readByContact } from '../../src/server/contact-reading/service.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { forMe } from '../../src/server/inbox/service.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { writeReply } from '../../src/server/replies/service.ts';
import { search } from '../../src/server/search/service.ts';
import { indexLeftOut } from '../../src/server/search/missing.ts';
import { answerFromPost, announcementsNamed } from '../../src/server/shelf/linking.ts';
import {
  addSubject,
  askShelf,
  closeQuestion,
  openAnswer,
  shelfDesk,
  writeAnswer,
} from '../../src/server/shelf/service.ts';
import { keepFile } from '../../src/server/uploads/service.ts';
import { serveUpload } from '../../src/server/uploads/serving.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  countOf,
  followAll,
  freshDatabase,
  SECRET,
  sendNow,
  toGroups,
} from './world.ts';

let db: Database;
let people: number[];
let group: number;
let keys = 0;
const key = (): string => `daily-key-${++keys}`;
const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });
const moderator = (id: number, board: number): Actor => ({ ...member(id), moderates: new Set([board]) });
const text = (words: string): Doc => ({
  type: 'doc',
  content: [{ type: 'paragraph', content: [{ type: 'text', text: words }] }],
});
const post = (title: string, words = 'Words.') => ({
  title,
  document: text(words),
  image: null,
  gallery: [],
  files: [],
});
const found = async (actor: Actor, q: string) => search(db, actor, 'UTC', searchSchema.parse({ q }));
const paths = async (actor: Actor, q: string): Promise<string[]> =>
  (await found(actor, q)).found.map((each) => each.path);

beforeAll(async () => {
  ({ db } = await freshDatabase('daily_use'));
  people = await addPeople(db, 12, 1);
  await db('people').update({ work_days: 127 });
  group = await addGroup(db, 'The six', people.slice(0, 6));
});
afterAll(() => db.destroy());

const board = (name: string, groupId: number | null = group): Promise<number> =>
  insertBoard(db, { name, about: 'A board.', groupId, posting: 'members' });

describe('a board that is given to another group', () => {
  it('says first who would not moderate it any more, and they do not', async () => {
    const id = await board('Kitchen');
    const other = await addGroup(db, 'The others', people.slice(3, 9));
    await appointModerator(db, coordinator, id, people[0]!, true);
    await appointModerator(db, coordinator, id, people[4]!, true);
    const place = await placeFor(db, coordinator, id, other);
    expect(place.people).toBe(6);
    expect(place.outside).toHaveLength(1);
    await changeBoardSettings(db, coordinator, id, { groupId: other });
    const left = (await boardSettings(db, coordinator, id)).moderators.map((each) => each.id);
    expect(left).toEqual([people[4]]);
    expect((await placeFor(db, coordinator, id, null)).outside).toEqual([]);
    await expect(placeFor(db, member(people[4]!), id, null)).rejects.toMatchObject({ status: 403 });
  });

  it('of a session keeps the name of its group the same as its own', async () => {
    const occurrence = await sendNow(
      db,
      { audience: toGroups([group]) },
      {
        title: 'A walk',
        event: {
          wall: '2031-05-01T10:00',
          zone: 'UTC',
          minutes: 60,
          place: 'The gate',
          link: '',
          signUp: true,
        },
      },
    );
    const id = await boardForSession(db, coordinator, occurrence);
    await changeBoardSettings(db, coordinator, id, { name: 'Walkers' });
    const [row] = await rows<{ name: string }>(
      db,
      'SELECT g.name FROM boards b JOIN `groups` g ON g.id = b.group_id WHERE b.id = ?',
      [id],
    );
    expect(row?.name).toBe('Walkers');
  });
});

it('lists the files of a board in the order asked for, archived one by one, and only for those who see it', async () => {
  const id = await board('Drawings');
  const [one, two] = people as [number, number];
  const file = (name: string, bytes: number) =>
    keepFile(db, member(one), Buffer.from('x'.repeat(bytes)), name);
  const plan = await file('plan.txt', 10);
  const list = await file('list.csv', 900);
  const note = await file('Note.txt', 50);
  const { id: postId } = await writePost(
    db,
    member(one),
    id,
    { ...post('Both'), files: [plan, list] },
    key(),
  );
  await writeReply(db, member(one), postId, { document: text('One more'), files: [note] }, key());
  const names = async (order: 'newest' | 'name' | 'size', actor: Actor = member(two)) =>
    (await boardFiles(db, actor, id, order)).files.map((each) => each.name);
  expect((await names('newest'))[0]).toBe('Note.txt');
  expect(await names('name')).toEqual(['list.csv', 'Note.txt', 'plan.txt']);
  expect(await names('size')).toEqual(['list.csv', 'Note.txt', 'plan.txt']);
  // Each is read where it stands, by whoever was given its address.
  for (const each of (await boardFiles(db, member(two), id, 'name')).files) {
    const url = new URL(each.href, 'https://bell.test');
    const served = await serveUpload(
      db,
      { actor: null, signed: url.searchParams.get('in'), draft: null },
      each.key,
      'file',
    );
    expect(served.name).toBe(each.name);
  }
  await expect(archiveFile(db, member(two), id, { key: plan.key, archived: true })).rejects.toMatchObject({
    status: 403,
  });
  await archiveFile(db, coordinator, id, { key: plan.key, archived: true });
  const after = await boardFiles(db, coordinator, id, 'name');
  expect(after.files.find((each) => each.name === 'plan.txt')?.archived).toBe(true);
  expect(after.mayArchive).toBe(true);
  await expect(boardFiles(db, member(people[10]!), id, 'name')).rejects.toMatchObject({ status: 404 });
  await expect(
    archiveFile(db, coordinator, id, { key: 'z'.repeat(22), archived: true }),
  ).rejects.toMatchObject({ status: 404 });
});

describe('the search', () => {
  it('finds key links, files in replies and what was said in check-ins, each only for those who may see it', async () => {
    const id = await board('Instruments');
    await placeLinks(db, coordinator, id, [
      { label: 'Barometer handbook', url: 'https://elsewhere.example/b' },
    ]);
    const [one, two] = people as [number, number];
    const outside = member(people[10]!);
    const file = await keepFile(db, member(one), Buffer.from('1;2\n'), 'hygrometer.csv');
    const { id: postId } = await writePost(db, member(one), id, post('Readings'), key());
    await writeReply(db, member(one), postId, { document: text('Here.'), files: [file] }, key());
    await followAll(db);
    // What was loaded without an event is found after the engine's next look.
    await db('findables').where({ kind: 'link' }).delete();
    await indexLeftOut(db);
    expect(await paths(member(one), 'barometer')).toEqual([`/boards/${id}#links`]);
    expect(await paths(outside, 'barometer')).toEqual([]);
    expect((await paths(member(one), 'hygrometer'))[0]).toContain(`/posts/${postId}`);
    await placeLinks(db, coordinator, id, [
      { label: 'Thermometer handbook', url: 'https://elsewhere.example/t' },
    ]);
    await followAll(db);
    expect(await paths(member(one), 'barometer')).toEqual([]);

    const occurrence = await sendNow(
      db,
      {
        audience: toGroups([group]),
        ask: askSchema.parse({
          kind: 'check-in',
          chase: null,
          deadline: null,
          within: 6,
          questions: [{ kind: 'text', text: 'What next?' }],
        }),
      },
      { title: 'This morning' },
    );
    await expandNow(db, occurrence);
    await answer(db, SECRET, one, occurrence, { answers: { 0: 'Calibrating the anemometer' } }, 'page');
    await followAll(db);
    expect(await paths(member(two), 'anemometer')).toEqual([`/check-ins/${occurrence}#said-${one}`]);
    expect(await paths(coordinator, 'anemometer')).toEqual([`/check-ins/${occurrence}#said-${one}`]);
    expect(await paths(outside, 'anemometer')).toEqual([]);
  });

  it('finds what is misspelt, and tells nobody a word of what they may not see', async () => {
    const id = await board('Hidden words');
    await writePost(db, member(people[0]!), id, post('The refrigerator'), key());
    await followAll(db);
    for (const wrong of ['refridgerator', 'refrigertaor', 'refrigeratr', 'Refrigerattor']) {
      const page = await found(member(people[1]!), wrong);
      expect(
        page.found.map((each) => each.title.join('')),
        wrong,
      ).toEqual(['The refrigerator']);
      expect(page.instead).toEqual(['refrigerator']);
    }
    expect(await found(member(people[10]!), 'refridgerator')).toMatchObject({ found: [], instead: [] });
    expect((await found(member(people[1]!), 'refrigerator')).instead).toEqual([]);
    expect(meant('cat', ['cap', 'cut'], 5)).toEqual([]);
    expect(meant('vualt', ['vault', 'fault', 'void'], 5)).toEqual(['vault']);
  });
});

describe('a question', () => {
  it('asked again brings its note along, and shows what was offered and what became of it', async () => {
    const subject = await addSubject(db, coordinator, { name: 'Keys', parentId: null });
    const write = (part: object) =>
      writeAnswer(
        db,
        coordinator,
        answerSchema.parse({
          question: 'Where are the keys?',
          document: text('In the box.'),
          subjectId: subject,
          published: true,
          ...part,
        }),
      );
    const shelved = await write({});
    const ask = (part: object) =>
      askShelf(
        db,
        member(people[0]!),
        questionSchema.parse({
          text: 'Who has the key to the cold room?',
          helpedBy: null,
          found: 1,
          offered: [shelved],
          ...part,
        }),
        key(),
      );
    const { id } = await ask({ note: 'That is the box at the gate.' });
    await closeQuestion(db, coordinator, id, 'Nobody has it just now.');
    await ask({ text: 'who has the key to the cold room' });
    const [open] = (await shelfDesk(db, coordinator)).open;
    expect(open).toMatchObject({
      note: 'That is the box at the gate.',
      named: false,
      offered: [{ id: shelved, question: 'Where are the keys?' }],
      before: { id, state: 'closed', reason: 'Nobody has it just now.' },
    });
  });

  it('is answered for all on a board and the shelf, and whoever asked is named only where they wish it', async () => {
    const id = await board('Answers', null);
    const subject = await addSubject(db, coordinator, { name: 'Doors', parentId: null });
    for (const named of [true, false]) {
      const { id: asked } = await askShelf(
        db,
        member(people[2]!),
        questionSchema.parse({ text: `Is the door locked, ${named}?`, helpedBy: null, found: 0, named }),
        key(),
      );
      const written = await writeAnswer(
        db,
        coordinator,
        answerSchema.parse({
          question: `Is it locked, ${named}?`,
          document: text('At eight.'),
          subjectId: subject,
          published: true,
          settles: asked,
          boardId: id,
        }),
      );
      const [put] = await rows<{ body: string }>(
        db,
        'SELECT v.body FROM posts p JOIN announcement_versions v ON v.id = p.version_id WHERE p.board_id = ? ORDER BY p.id DESC LIMIT 1',
        [id],
      );
      const name = `Person 0000${people[2]}`;
      expect(put?.body.includes(name)).toBe(named);
      expect(put?.body).toContain('At eight.');
      expect((await openAnswer(db, member(people[3]!), written)).askedBy).toEqual(named ? [name] : []);
    }
    expect(await countOf(db, 'FROM posts WHERE board_id = ?', [id])).toBe(2);
  });

  it('may be answered from a post, and linked to what went out, found by its title with its date', async () => {
    const id = await board('Tips');
    const { id: postId } = await writePost(
      db,
      member(people[0]!),
      id,
      post('How to prime the pump', 'Pour water in first.'),
      key(),
    );
    const draft = await answerFromPost(db, coordinator, postId);
    expect(draft).toMatchObject({ question: 'How to prime the pump', occurrenceId: null });
    expect(JSON.stringify(draft.document)).toContain('Pour water in first.');
    await expect(answerFromPost(db, member(people[0]!), postId)).rejects.toMatchObject({ status: 403 });
    const occurrence = await sendNow(db, { audience: toGroups([group]) }, { title: 'Pump 100% repaired' });
    await expandNow(db, occurrence);
    const session = { actor: coordinator, zone: 'Europe/London' };
    const named = await announcementsNamed(db, session, '100% rep');
    expect(named).toMatchObject([{ id: occurrence, name: 'Pump 100% repaired' }]);
    expect(named[0]?.detail).toMatch(/^\d+ \w+/);
    expect(await announcementsNamed(db, session, '100_ rep')).toEqual([]);
  });
});

describe('whoever reads a board otherwise', () => {
  it('a linked contact reads it by their own link where it is allowed, and is counted as such', async () => {
    const id = await board('Families');
    const [contact] = await db('people').insert({
      name: 'A mother',
      mail: 'mother@family.example',
      linked_to: people[0],
      relation: 'mother',
      station_id: 1,
      zone: 'Europe/London',
      joined_on: '2026-01-01',
      occupation: '',
    });
    const links = () =>
      linksOfContact(db, coordinator, contact!, { publicUrl: 'https://bell.test', secret: SECRET });
    expect(await links()).toEqual([]);
    await expect(
      changeBoardSettings(db, moderator(people[1]!, id), id, { contactsRead: true }),
    ).rejects.toMatchObject({ status: 403 });
    await changeBoardSettings(db, coordinator, id, { contactsRead: true });
    const [link] = await links();
    expect(link?.board).toBe('Families');
    const token = link!.url.split('/m/board/')[1]!;
    const occurrence = await sendNow(db, { audience: null, boards: [id] }, { title: 'Open day' });
    await expandNow(db, occurrence);
    const reading = await openForContact(db, SECRET, token, null);
    if (reading.state !== 'good') throw new Error(reading.state);
    expect(reading.page.posts.map((each) => each.title)).toEqual(['Open day']);
    // Only opened, as a mail scanner does, nothing is read.
    expect((await after(db, coordinator, occurrence)).figures).toMatchObject({
      readOnBoards: 0,
      contactsOnBoards: 0,
    });
    await readByContact(db, reading.page);
    expect((await after(db, coordinator, occurrence)).figures).toMatchObject({
      readOnBoards: 0,
      contactsOnBoards: 1,
    });

    for (const wrong of [token.replace(/^b/, 'a'), `${token}x`, token.replace(/-\w+-/, '-zz-')])
      expect((await openForContact(db, SECRET, wrong, null)).state).toBe('altered');
    await expect(
      linksOfContact(db, member(people[0]!), contact!, { publicUrl: '', secret: SECRET }),
    ).rejects.toMatchObject({ status: 403 });
    // Whoever they are linked to belongs to it no more.
    await db('group_members').where({ group_id: group, person_id: people[0] }).delete();
    expect((await openForContact(db, SECRET, token, null)).state).toBe('gone');
    await db('group_members').insert({ group_id: group, person_id: people[0] });
    await changeBoardSettings(db, coordinator, id, { contactsRead: false });
    expect((await openForContact(db, SECRET, token, null)).state).toBe('gone');
  });

  it('somebody puts it out of their sight: not in For me, not counted, found by the search', async () => {
    const id = await board('Too much');
    const reader = member(people[5]!);
    const { id: postId } = await writePost(
      db,
      member(people[1]!),
      id,
      post('Once more the gooseberries'),
      key(),
    );
    await followAll(db);
    const stands = async () =>
      (await forMe(db, reader, null)).lines.some((line) => line.path === `/posts/${postId}`);
    expect(await stands()).toBe(true);
    await followBoard(db, reader, id, 'hide');
    expect(await stands()).toBe(false);
    expect((await listBoards(db, reader)).find((each) => each.id === id)?.hidden).toBe(true);
    expect(await paths(reader, 'gooseberries')).toEqual([`/posts/${postId}`]);
    await followBoard(db, reader, id, null);
    expect(await stands()).toBe(true);
  });
});
