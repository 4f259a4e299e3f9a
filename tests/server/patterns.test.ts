import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { newAutomation, type Automation } from '../../src/core/automation/automation.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { simpleContent } from '../../src/core/content/announcement.ts';
import { partKey, type PlaceAnswers } from '../../src/core/patterns/pattern.ts';
import type { PlaceLook } from '../../src/core/patterns/page.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { makeAutomation, publish, saveDraft } from '../../src/server/automations/service.ts';
import { allAutomations, automationById } from '../../src/server/automations/store.ts';
import {
  boardSettings,
  makeBoard,
  placeLinks,
  changeBoardSettings,
} from '../../src/server/boards/settings.ts';
import { openBoard, visibleBoard } from '../../src/server/boards/service.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { audienceContext } from '../../src/server/groups/directory.ts';
import { addMembers, alterGroup, makeGroup } from '../../src/server/groups/making.ts';
import { allGroups } from '../../src/server/groups/store.ts';
import { postById } from '../../src/server/posts/store.ts';
import { putUp } from '../../src/server/posts/puttingUp.ts';
import { pin } from '../../src/server/posts/pinning.ts';
import { rewritePost, writePost } from '../../src/server/posts/writing.ts';
import {
  deletePattern,
  replacePattern,
  keepPattern,
  lookAtPlace,
} from '../../src/server/patterns/keeping.ts';
import { makePlace, planPlace } from '../../src/server/patterns/making.ts';
import { placePage, takeChanges } from '../../src/server/patterns/offering.ts';
import { patternPage } from '../../src/server/patterns/service.ts';
import { undoPlace } from '../../src/server/patterns/undoing.ts';
import { setRights } from '../../src/server/sheets/rights.ts';
import { peopleOfSheet } from '../../src/server/sheets/rightsStore.ts';
import { addRecord, alterSheet, makeSheet } from '../../src/server/sheets/service.ts';
import { sheetById } from '../../src/server/sheets/store.ts';
import { says } from './automating.ts';
import { addPeople, coordinator, countOf, followAll, freshDatabase, refusal } from './world.ts';

const URL_HERE = 'https://bell.example';
let db: Database;
let here: number[];
let there: number[];
let board: number;
const make = (of: number, given: Parameters<typeof makePlace>[3]) =>
  makePlace(db, coordinator, of, given, URL_HERE);
const take = (of: number, given: Parameters<typeof takeChanges>[3]) =>
  takeChanges(db, coordinator, of, given, URL_HERE);
let group: number;
let keyholders: number;
let sheet: number;
let welcome: number;
let weekly: number;
const document = (text: string) => ({
  type: 'doc' as const,
  content: [{ type: 'paragraph' as const, content: [{ type: 'text' as const, text }] }],
});

/** A station's place with all that can belong to one. */
async function layPlace(): Promise<void> {
  group = await makeGroup(db, coordinator, { name: 'Marrow Fen', rule: { kind: 'station', id: 1 } });
  keyholders = await makeGroup(db, coordinator, {
    name: 'Marrow Fen keyholders',
    rule: {
      kind: 'all',
      of: [
        { kind: 'group', id: group },
        { kind: 'attribute', name: 'key', value: 'yes' },
      ],
    },
  });
  sheet = await makeSheet(db, coordinator, {
    name: 'Field kit for Marrow Fen',
    purpose: 'What is asked for',
    columns: [{ id: 'c1', name: 'What', kind: 'text', unit: '', choices: [] }],
    form: {
      open: false,
      intro: 'For Marrow Fen',
      thanks: 'Noted.',
      fields: [{ column: 'c1', help: '', required: true }],
    },
  });
  const key = (await sheetById(db, sheet))?.formKey ?? '';
  await setRights(db, coordinator, sheet, { seenBy: 'named', people: [] });
  board = await makeBoard(db, coordinator, {
    name: 'Marrow Fen',
    about: 'Marrow Fen and Marrow Fenland are two places.',
    purpose: 'talk',
    groupId: group,
  });
  await changeBoardSettings(db, coordinator, board, { pinLimit: 4, reacting: 'nobody' });
  await placeLinks(db, coordinator, board, [
    { label: 'Ask for field kit', url: `https://bell.example/forms/${key}` },
    // Elsewhere the same number is something else.
    { label: 'A board elsewhere', url: `https://elsewhere.example/boards/${board}` },
    { label: 'Marrow Fen itself', url: `https://bell.example/boards/${board}` },
  ]);
  const post = await putUp(
    db,
    coordinator,
    await visibleBoard(db, coordinator, board),
    simpleContent('Welcome to Marrow Fen', document('Who we are at Marrow Fen.')),
    { key: 'welcome', held: false },
  );
  await pin(db, coordinator, post.id, { pinned: true, until: null, replaces: null }, 'UTC');
  welcome = await makeAutomation(db, coordinator, {
    automation: {
      ...newAutomation('Welcome to Marrow Fen', { kind: 'joins', groupId: group }),
      content: says('Welcome to Marrow Fen', 'Glad you are here.'),
    },
  });
  await publish(db, coordinator, welcome, 1);
  weekly = await makeAutomation(db, coordinator, {
    automation: {
      ...newAutomation('Keys at Marrow Fen', {
        kind: 'schedule',
        start: '2027-11-29T17:30',
        zone: 'Europe/London',
        rule: WEEKLY,
        sheetId: null,
      }),
      until: '2028-03-31',
      content: says('Keys', 'Bring them back to Marrow Fen.'),
      tell: {
        to: { kind: 'audience', audience: { kind: 'group', id: keyholders } },
        boards: [board],
        outside: [],
        boardField: null,
        mail: false,
        otherwise: null,
      },
    },
  });
  await publish(db, coordinator, weekly, 1);
}

beforeAll(async () => {
  ({ db } = await freshDatabase('patterns'));
  here = await addPeople(db, 3, 1);
  there = await addPeople(db, 2, 2);
  for (const person of [here[0], there[0]])
    await db('person_attributes').insert({ person_id: person, name: 'key', value: 'yes' });
  await layPlace();
});
afterAll(() => db.destroy());

const chosen = (look: PlaceLook, but: string[] = []) => ({
  called: 'Marrow Fen',
  parts: look.parts.map(({ key }) => key).filter((key) => !but.includes(key)),
  blanks: look.blanks.map(({ key }) => key),
});
let pattern: number;
const answers = (part: Partial<PlaceAnswers> = {}): PlaceAnswers => ({
  name: 'Oru Terrace',
  ownerId: there[0] ?? 0,
  given: {
    'station:1': '2',
    'zone:Europe/London': 'Asia/Kathmandu',
    'date:2027-11-29': '2027-12-06',
    'date:2028-03-31': '2028-04-30',
  },
  atWork: true,
  ...part,
});
const groupNamed = async (name: string) => (await allGroups(db)).find((each) => each.name === name);
const automationNamed = async (name: string) =>
  (await allAutomations(db)).find(({ draft }) => draft.name === name);
/** How many rows there are of all that a place is made of. */
const everything = async (): Promise<number[]> =>
  Promise.all(
    [
      'groups',
      'boards',
      'board_links',
      'posts',
      'announcements',
      'announcement_versions',
      'sheets',
      'automations',
      'automation_versions',
      'group_members',
      'findables',
      'follows',
      'pattern_places',
      'pattern_place_parts',
    ].map((table) => countOf(db, `FROM \`${table}\``)),
  );

beforeEach(async () => {
  pattern = (
    await keepPattern(db, coordinator, {
      name: `A station ${Math.random()}`,
      about: 'For a new station',
      boardId: board,
      ...chosen(await lookAtPlace(db, coordinator, board)),
    })
  ).id;
});

describe('a place that is kept', () => {
  it('is told with all that belongs to it; what is read elsewhere too is shared unless somebody chooses it', async () => {
    const look = await lookAtPlace(db, coordinator, board);
    expect(look.parts.map(({ key, kept }) => [key.replace(/\d+/, ''), kept])).toEqual([
      ['group:', true],
      ['group:', true],
      ['sheet:', false],
      ['board:', true],
      ['pin:', true],
      ['automation:', true],
      ['automation:', true],
    ]);
    expect(look.blanks.map(({ key, asked }) => [key, asked])).toEqual([
      ['station:1', true],
      ['zone:Europe/London', true],
      ['date:2027-11-29', true],
      ['date:2028-03-31', true],
    ]);
  });

  it('needs a board, the board of what is pinned, and a name that stands in it', async () => {
    const look = await lookAtPlace(db, coordinator, board);
    const keep = (part: object) =>
      refusal(
        keepPattern(db, coordinator, {
          name: 'Another',
          about: '',
          boardId: board,
          ...chosen(look),
          ...part,
        }),
      );
    expect((await keep({ parts: [`group:${group}`] })).errors[0]?.field).toBe('parts');
    expect((await keep({ called: 'Nowhere' })).errors[0]?.field).toBe('called');
    expect((await keep({ parts: [`board:999`] })).status).toBe(409);
    const { name } = await patternPage(db, coordinator, pattern);
    expect((await keep({ name })).errors[0]?.field).toBe('name');
  });

  it('is for coordinators alone', async () => {
    const editor: Actor = { ...coordinator, id: here[0] ?? 0, role: 'editor', mayReach: new Set([group]) };
    for (const work of [
      lookAtPlace(db, editor, board),
      planPlace(db, editor, pattern, answers(), URL_HERE),
      makePlace(db, editor, pattern, { number: 1, answers: answers() }, URL_HERE),
      deletePattern(db, editor, pattern),
    ])
      expect((await refusal(work)).status).toBe(403);
  });
});

describe('a place that is made', () => {
  it('is looked at first, and nothing of it stays', async () => {
    const before = await everything();
    const planned = await planPlace(db, coordinator, pattern, answers(), URL_HERE);
    expect(planned.errors).toEqual([]);
    expect(planned.parts.map(({ name, problem }) => [name, problem])).toEqual([
      ['Oru Terrace', null],
      ['Oru Terrace keyholders', null],
      ['Field kit for Oru Terrace', null],
      ['Oru Terrace', null],
      ['Welcome to Oru Terrace', null],
      ['Keys at Oru Terrace', null],
      ['Welcome to Oru Terrace', null],
    ]);
    expect(planned.parts.find(({ name }) => name === 'Keys at Oru Terrace')?.says.join(' ')).toMatch(
      /Oru Terrace keyholders.*put to work at once/s,
    );
    expect(await everything()).toEqual(before);
  });

  it('has its own name, station, clock, dates, form and people, and works at once; taken back, nothing of it is left', async () => {
    await followAll(db);
    const before = await everything();
    const { id } = await make(pattern, { number: 1, answers: answers() });
    const made = await groupNamed('Oru Terrace');
    const holders = await groupNamed('Oru Terrace keyholders');
    expect(made).toMatchObject({ rule: { kind: 'station', id: 2 }, ownerIds: [there[0]] });
    expect(holders).toMatchObject({ rule: { kind: 'all', of: [{ kind: 'group', id: made?.id }, {}] } });
    const page = await placePage(db, coordinator, id, URL_HERE);
    const boardId = Number(
      page.parts
        .find(({ kind }) => kind === 'board')
        ?.path?.split('/')
        .at(-1),
    );
    const sheetId = Number(
      page.parts
        .find(({ kind }) => kind === 'sheet')
        ?.path?.split('/')
        .at(-1),
    );
    const read = await openBoard(db, coordinator, boardId);
    // A name that only begins as the place's does is another.
    expect(read.board).toMatchObject({
      name: 'Oru Terrace',
      about: 'Oru Terrace and Marrow Fenland are two places.',
    });
    expect(read.switches).toEqual({ ...PRESETS.talk.switches, reacting: 'nobody', passing: false });
    expect(read.pinned.map(({ title }) => title)).toEqual(['Welcome to Oru Terrace']);
    const { formKey: key, seenBy } = (await sheetById(db, sheetId)) ?? {};
    expect(seenBy).toBe('named');
    expect(read.links.map(({ url }) => url)).toEqual([
      `https://bell.example/forms/${key}`,
      `https://elsewhere.example/boards/${board}`,
      `https://bell.example/boards/${boardId}`,
    ]);
    expect(await visibleBoard(db, coordinator, boardId)).toMatchObject({ rules: { ownerId: there[0] } });
    const keys = await automationNamed('Keys at Oru Terrace');
    expect(keys).toMatchObject({
      state: 'on',
      live: {
        when: { start: '2027-12-06T17:30', zone: 'Asia/Kathmandu' },
        until: '2028-04-30',
        tell: { to: { audience: { kind: 'group', id: holders?.id } }, boards: [boardId] },
      },
    });
    expect(page.inTheWay).toEqual([]);
    await undoPlace(db, coordinator, id);
    expect(await everything()).toEqual(before);
    // What is told of it afterwards finds it gone, and stumbles over nothing.
    await followAll(db);
    expect(await countOf(db, 'FROM set_aside')).toBe(0);
    expect(await everything()).toEqual(before);
  });

  it('is all of it or nothing, and tells all that keeps it from being made', async () => {
    await makeGroup(db, coordinator, { name: 'Tarn Hollow', rule: null });
    await makeBoard(db, coordinator, { name: 'Tarn Hollow', about: 'x', purpose: 'news', groupId: null });
    const before = await everything();
    const planned = await planPlace(db, coordinator, pattern, answers({ name: 'Tarn Hollow' }), URL_HERE);
    expect(planned.parts.flatMap(({ problem }) => problem ?? [])).toEqual([
      'The group “Tarn Hollow”: There is a group of this name already.',
      'It needs the group “Tarn Hollow”, which cannot be made.',
      'It needs the group “Tarn Hollow”, which cannot be made.',
      expect.stringContaining('which cannot be made'),
      expect.stringContaining('which cannot be made'),
      expect.stringContaining('which cannot be made'),
    ]);
    const refused = await refusal(make(pattern, { number: 1, answers: answers({ name: 'Tarn Hollow' }) }));
    expect(refused.status).toBe(422);
    expect(await everything()).toEqual(before);
  });

  it('refuses who and what is not here, and a pattern that was taken anew meanwhile', async () => {
    const faults = async (part: Partial<PlaceAnswers>) =>
      (await planPlace(db, coordinator, pattern, answers(part), URL_HERE)).errors.map(({ field }) => field);
    expect(await faults({ ownerId: 99_999 })).toEqual(['ownerId']);
    expect(await faults({ given: { 'station:1': '77', 'station:9': '1' } })).toEqual([
      'given.station:1',
      'given.station:9',
    ]);
    expect((await refusal(make(pattern, { number: 2, answers: answers() }))).status).toBe(409);
  });

  it('twice at once is made once', async () => {
    const results = await Promise.allSettled(
      [1, 2].map(() => make(pattern, { number: 1, answers: answers({ name: 'Juniper Flat' }) })),
    );
    expect(results.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await countOf(db, "FROM boards WHERE name = 'Juniper Flat'")).toBe(1);
  });

  it('is not taken back under somebody who writes to it at that moment', async () => {
    for (let round = 0; round < 6; round++) {
      const name = `Moor ${round}`;
      const { id } = await make(pattern, { number: 1, answers: answers({ name }) });
      const { parts } = await placePage(db, coordinator, id, URL_HERE);
      const [boardId, sheetId] = ['board', 'sheet'].map((kind) =>
        Number(
          parts
            .find((part) => part.kind === kind)
            ?.path?.split('/')
            .at(-1),
        ),
      ) as [number, number];
      const said = { title: 'News', document: document('It rains.'), image: null, gallery: [], files: [] };
      const [undone, ...written] = await Promise.allSettled([
        undoPlace(db, coordinator, id),
        writePost(db, coordinator, boardId, said, `moor-${round}`),
        addRecord(db, coordinator, sheetId, { c1: 'A sieve' }),
      ]);
      const gone = undone.status === 'fulfilled';
      expect(written.map(({ status }) => status)).toEqual(
        written.map(() => (gone ? 'rejected' : (expect.any(String) as string))),
      );
      expect(await countOf(db, 'FROM boards WHERE name = ?', [name])).toBe(gone ? 0 : 1);
      if (gone) continue;
      expect(written.some(({ status }) => status === 'fulfilled')).toBe(true);
    }
  });

  it('is not taken back once somebody has used it, and says what stands in the way', async () => {
    const { id } = await make(pattern, {
      number: 1,
      answers: answers({ name: 'Cinder Bay' }),
    });
    const { parts } = await placePage(db, coordinator, id, URL_HERE);
    const idOf = (kind: string) =>
      Number(
        parts
          .find((part) => part.kind === kind)
          ?.path?.split('/')
          .at(-1),
      );
    const post = await writePost(
      db,
      coordinator,
      idOf('board'),
      { title: 'News', document: document('It rains.'), image: null, gallery: [], files: [] },
      'rain',
    );
    await addRecord(db, coordinator, idOf('sheet'), { c1: 'A sieve' });
    const [pinned] = (await openBoard(db, coordinator, idOf('board'))).pinned;
    await db('posts').insert({
      board_id: board,
      version_id: (await postById(db, pinned?.id ?? 0))?.versionId,
      author_id: 1,
      origin_id: pinned?.id,
      posted_at: db.fn.now(3),
    });
    const outside = await makeGroup(db, coordinator, {
      name: 'All of Cinder Bay',
      rule: { kind: 'group', id: idOf('group') },
    });
    const before = await everything();
    const { message, status } = await refusal(undoPlace(db, coordinator, id));
    expect(status).toBe(409);
    expect(message).toContain('1 post and 1 post that was passed on of the board “Cinder Bay”');
    expect(message).toContain('1 record in the record sheet “Field kit for Cinder Bay”');
    expect(message).toContain('“All of Cinder Bay” speaks of the group “Cinder Bay”');
    expect(await everything()).toEqual(before);
    expect([post.state, outside > 0]).toEqual(['up', true]);
  });
});

describe('a pattern that changed', () => {
  it('offers its changes; those taken come, what is of the place alone stays, and nothing is offered twice', async () => {
    const { id } = await make(pattern, {
      number: 1,
      answers: answers({ name: 'Kestrel Gorge' }),
    });
    const page = await placePage(db, coordinator, id, URL_HERE);
    const boardId = Number(
      page.parts
        .find(({ kind }) => kind === 'board')
        ?.path?.split('/')
        .at(-1),
    );
    expect(page.offers).toEqual([]);
    // There it goes its own way; here the place it was taken from becomes better.
    const links = (await openBoard(db, coordinator, boardId)).links;
    await placeLinks(db, coordinator, boardId, [
      ...links,
      { label: 'Bus times', url: 'https://bus.example' },
    ]);
    await changeBoardSettings(db, coordinator, boardId, { about: 'Ours.' });
    await changeBoardSettings(db, coordinator, board, { about: 'What Marrow Fen hears.', pinLimit: 5 });
    const mine = (await openBoard(db, coordinator, board)).links;
    await placeLinks(db, coordinator, board, [...mine, { label: 'Tides', url: 'https://tides.example' }]);
    const row = await automationById(db, weekly);
    const said = { ...(row?.draft as Automation), content: says('Keys', 'Hang them up at Marrow Fen.') };
    const revision = await saveDraft(db, coordinator, weekly, {
      revision: row?.revision ?? 0,
      automation: said,
    });
    await publish(db, coordinator, weekly, revision);
    await makeGroup(db, coordinator, {
      name: 'New at Marrow Fen',
      rule: {
        kind: 'all',
        of: [
          { kind: 'group', id: group },
          { kind: 'joined within', days: 60 },
        ],
      },
    });
    const look = await lookAtPlace(db, coordinator, board);
    await replacePattern(db, coordinator, pattern, { number: 1, ...chosen(look) });

    const { offers } = await placePage(db, coordinator, id, URL_HERE);
    expect(offers).toEqual([
      expect.objectContaining({ state: 'new', name: 'New at Kestrel Gorge' }),
      expect.objectContaining({
        state: 'changed',
        kind: 'board',
        says: ['its key links', 'what it is for to “What Kestrel Gorge hears.”', 'how many posts are pinned'],
        here: ['its key links', 'what it is for'],
      }),
      expect.objectContaining({ state: 'changed', kind: 'automation', here: [] }),
    ]);
    const stale = await refusal(take(id, { number: 1, parts: [] }));
    expect(stale.status).toBe(409);
    await take(id, { number: 2, parts: offers.map(({ key }) => key) });
    const after = await openBoard(db, coordinator, boardId);
    expect(after.board.about).toBe('What Kestrel Gorge hears.');
    expect(after.pinLimit).toBe(5);
    expect(after.links.map(({ label }) => label)).toEqual([
      'Ask for field kit',
      'A board elsewhere',
      'Kestrel Gorge itself',
      'Tides',
      'Bus times',
    ]);
    expect(await groupNamed('New at Kestrel Gorge')).toMatchObject({ kind: 'live' });
    const spoken = await automationNamed('Keys at Kestrel Gorge');
    expect(JSON.stringify(spoken?.live)).toContain('Hang them up at Kestrel Gorge.');
    expect(spoken?.state).toBe('on');
    expect((await placePage(db, coordinator, id, URL_HERE)).offers).toEqual([]);
    expect((await boardSettings(db, coordinator, boardId)).made).toMatchObject({ id, behind: false });
    expect((await boardSettings(db, coordinator, board)).made).toBeNull();
    expect((await patternPage(db, coordinator, pattern)).places).toMatchObject([{ behind: false }]);
    // Taken back, also what came with the changes goes.
    await undoPlace(db, coordinator, id);
    expect(await groupNamed('New at Kestrel Gorge')).toBeUndefined();
  });

  it('has its sheet, its pinned post and its group changed where that is chosen; a column of its own in the way is said', async () => {
    const { id } = await make(pattern, { number: 1, answers: answers({ name: 'Heron Weir' }) });
    const page = await placePage(db, coordinator, id, URL_HERE);
    const idOf = (kind: string): number =>
      Number(
        page.parts
          .find((part) => part.kind === kind)
          ?.path?.split('/')
          .at(-1),
      );
    const theirs = async () => (await sheetById(db, idOf('sheet')))!;
    const column = (at: string, name: string) => ({
      id: at,
      name,
      kind: 'text' as const,
      unit: '',
      choices: [] as string[],
    });
    /** Writes the columns of a sheet after those it has. */
    const add = async (to: number, ...more: ReturnType<typeof column>[]): Promise<void> => {
      const { name, purpose, form, columns, revision } = (await sheetById(db, to))!;
      await alterSheet(db, coordinator, to, {
        revision,
        shape: { name, purpose, form, columns: [...columns, ...more] },
      });
    };
    const pinned = (
      await rows<{ id: number }>(db, 'SELECT id FROM posts WHERE board_id = ? AND pinned_at IS NOT NULL', [
        board,
      ])
    )[0]!.id;
    await add(sheet, column('c2', 'For when at Marrow Fen'));
    await rewritePost(db, coordinator, pinned, {
      title: 'Welcome to Marrow Fen',
      document: document('Boots are needed at Marrow Fen.'),
      image: null,
      gallery: [],
      files: [],
    });
    await setRights(db, coordinator, sheet, { seenBy: 'desk', people: [] });
    await alterGroup(db, coordinator, keyholders, {
      rule: {
        kind: 'all',
        of: [
          { kind: 'group', id: group },
          { kind: 'occupation', occupation: 'driver' },
        ],
      },
    });
    await replacePattern(db, coordinator, pattern, {
      number: 1,
      ...chosen(await lookAtPlace(db, coordinator, board)),
    });
    const { offers } = await placePage(db, coordinator, id, URL_HERE);
    const changed = offers.filter(({ state }) => state === 'changed');
    expect(changed.map(({ kind }) => kind).sort()).toEqual(['group', 'pin', 'sheet']);
    // A column that was added there has taken the place of the one that comes: nothing of it all is done.
    await add(idOf('sheet'), column('c2', 'Colour'));
    const before = await everything();
    const refused = await refusal(take(id, { number: 2, parts: changed.map(({ key }) => key) }));
    expect([refused.status, refused.message]).toEqual([
      409,
      expect.stringMatching(/“Field kit for Heron Weir” has a column “Colour” of its own/),
    ]);
    expect(await everything()).toEqual(before);
    const { name, purpose, form, columns, revision } = await theirs();
    await alterSheet(db, coordinator, idOf('sheet'), {
      revision,
      shape: { name, purpose, form, columns: [columns[0]!, { ...column('c9', 'Colour') }] },
    });
    expect((await refusal(take(id, { number: 2, parts: changed.map(({ key }) => key) }))).message).toMatch(
      /has had a column in the place of “For when at Heron Weir”, which was taken out/,
    );
    // The others of the changes come without it.
    await take(id, { number: 2, parts: changed.flatMap(({ kind, key }) => (kind === 'sheet' ? [] : [key])) });
    const after = await theirs();
    expect(after.columns.map((each) => each.name)).toEqual(['What', 'Colour']);
    expect(await peopleOfSheet(db, idOf('sheet'))).toEqual([]);
    const { posts } = await openBoard(db, coordinator, idOf('board'));
    expect(JSON.stringify(posts)).toContain('Boots are needed at Heron Weir.');
    expect(await groupNamed('Heron Weir keyholders')).toMatchObject({
      rule: {
        of: [
          { kind: 'group', id: idOf('group') },
          { kind: 'occupation', occupation: 'driver' },
        ],
      },
    });
    // What was left out is not offered again.
    expect((await placePage(db, coordinator, id, URL_HERE)).offers).toEqual([]);
    // In a place where nothing stands in the way, the sheet changes too.
    const other = await make(pattern, { number: 2, answers: answers({ name: 'Alder Ford' }) });
    await add(sheet, column('c3', 'How many for Marrow Fen'));
    const look = await lookAtPlace(db, coordinator, board);
    await replacePattern(db, coordinator, pattern, { number: 2, ...chosen(look) });
    const [offer] = (await placePage(db, coordinator, other.id, URL_HERE)).offers;
    await take(other.id, { number: 3, parts: [offer!.key] });
    const [made] = await rows<{ id: number }>(
      db,
      "SELECT id FROM sheets WHERE name = 'Field kit for Alder Ford'",
    );
    expect((await sheetById(db, made!.id))?.columns.map((each) => each.name)).toEqual([
      'What',
      'For when at Alder Ford',
      'How many for Alder Ford',
    ]);
  });

  it('that is deleted leaves the places made from it', async () => {
    await make(pattern, { number: 1, answers: answers({ name: 'Sant Elm' }) });
    await deletePattern(db, coordinator, pattern);
    expect(await groupNamed('Sant Elm')).toBeDefined();
    expect((await refusal(patternPage(db, coordinator, pattern))).status).toBe(404);
  });

  it('holds a group that is picked by hand, which begins with its owner', async () => {
    const party = await makeGroup(db, coordinator, { name: 'Seed party', rule: null });
    await addMembers(db, coordinator, party, { ids: here, lines: [] });
    const place = await makeBoard(db, coordinator, {
      name: 'Seed party',
      about: 'Of the Seed party',
      purpose: 'talk',
      groupId: party,
    });
    const watch = await makeGroup(db, coordinator, { name: 'Night watch', rule: null });
    await addMembers(db, coordinator, watch, { ids: here.slice(1), lines: [] });
    const mixed = await makeGroup(db, coordinator, { name: 'Of both stations', rule: null });
    await addMembers(db, coordinator, mixed, { ids: [...here.slice(1), ...there], lines: [] });
    await makeGroup(db, coordinator, { name: 'Nobody yet', rule: null });
    const look = await lookAtPlace(db, coordinator, place);
    // Only a group in which everybody belongs to the place is offered, and it is for whoever keeps it to choose it.
    expect(
      look.parts.filter(({ key }) => key.startsWith('group:')).map(({ key, kept }) => [key, kept]),
    ).toEqual([
      [partKey({ kind: 'group', id: party }), true],
      [partKey({ kind: 'group', id: watch }), false],
    ]);
    const { id } = await keepPattern(db, coordinator, {
      name: 'A party',
      about: '',
      boardId: place,
      called: 'Seed party',
      parts: look.parts.flatMap(({ key, kept }) => (kept ? [key] : [])),
      blanks: [],
    });
    const made = await make(id, {
      number: 1,
      answers: answers({ name: 'Moss party', given: {} }),
    });
    const found = await groupNamed('Moss party');
    expect(await countOf(db, 'FROM group_members WHERE group_id = ?', [found?.id])).toBe(1);
    await addMembers(db, coordinator, found?.id ?? 0, { ids: [here[0] ?? 0], lines: [] });
    expect((await placePage(db, coordinator, made.id, URL_HERE)).inTheWay).toEqual([
      '1 person more in the group “Moss party”',
    ]);
    await alterGroup(db, coordinator, found?.id ?? 0, { name: 'Moss people' });
    expect((await placePage(db, coordinator, made.id, URL_HERE)).parts[0]?.name).toBe('Moss people');
    expect(partKey({ kind: 'group', id: party })).toBe(look.parts[0]?.key);
    expect((await audienceContext(db)).groups.has(party)).toBe(true);
  });
});
