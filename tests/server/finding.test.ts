import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { PRESETS } from '../../src/core/boards/switches.ts';
import type { Doc } from '../../src/core/content/document.ts';
import { searchSchema } from '../../src/core/search/searchSchema.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { listNotices } from '../../src/server/notices/service.ts';
import { rewritePost, writePost } from '../../src/server/posts/writing.ts';
import { decidePost } from '../../src/server/posts/moderating.ts';
import { openPost } from '../../src/server/posts/opening.ts';
import { rewriteReply, writeReply } from '../../src/server/replies/service.ts';
import { search } from '../../src/server/search/service.ts';
import {
  addSubject,
  answersUnder,
  askShelf,
  best as bestNow,
  closeQuestion,
  listSubjects,
  openAnswer,
  pointTo,
  publishToAll,
  removeAnswer,
  shelfDesk,
  writeAnswer,
} from '../../src/server/shelf/service.ts';
import {
  addRibbon,
  changeRibbon,
  draftDigest,
  giveThanks,
  personPage,
  thanksChoices,
  thanksOfMonth,
} from '../../src/server/thanks/service.ts';
import { openAnnouncement } from '../../src/server/announcements/service.ts';
import { saveRevision } from '../../src/server/announcements/store.ts';
import { publishCorrection } from '../../src/server/sends/correcting.ts';
import { openForChange } from '../../src/server/sends/changing.ts';
import { openBoard } from '../../src/server/boards/service.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  freshDatabase,
  plan,
  sendNow,
  followAll,
} from './world.ts';

let db: Database;
let people: number[];
let open: number;
let closed: number;
const actor = (id: number, part: Partial<Actor> = {}): Actor => ({
  id,
  role: 'member',
  moderates: new Set(),
  mayReach: new Set(),
  ...part,
});
const text = (words: string): Doc => ({
  type: 'doc',
  content: [{ type: 'paragraph', content: [{ type: 'text', text: words }] }],
});
let keys = 0;
const key = (): string => `finding-key-${++keys}`;
const post = (title: string, words: string) => ({
  title,
  document: text(words),
  image: null,
  gallery: [],
  files: [],
});
const found = async (who: Actor, query: Record<string, unknown>): Promise<string[]> => {
  await followAll(db);
  return (await search(db, who, 'UTC', searchSchema.parse(query))).found.map((each) => each.title.join(''));
};
const best = async (...[of, words]: Parameters<typeof bestNow>) => {
  await followAll(db);
  return bestNow(of, words);
};
const told = async (id: number) => {
  await followAll(db);
  return (await listNotices(db, id, null)).notices;
};

beforeAll(async () => {
  ({ db } = await freshDatabase('finding'));
  people = await addPeople(db, 20, 1);
  const few = await addGroup(db, 'Few', people.slice(0, 5));
  open = await insertBoard(db, {
    name: 'Open',
    about: 'O.',
    groupId: null,
    ...PRESETS.talk.switches,
    takesThanks: true,
  });
  closed = await insertBoard(db, { name: 'Closed', about: 'C.', groupId: few, ...PRESETS.talk.switches });
});
afterAll(() => db.destroy());

describe('search', () => {
  it('finds other forms of a word too, after those that stand as they were written', async () => {
    const writer = actor(people[0]!);
    await writePost(db, writer, open, post('Watering rotas', 'Who waters which bed.'), key());
    await writePost(db, writer, open, post('Watered twice', 'The policy on waste.'), key());
    await writePost(db, writer, open, post('Waste', 'All policies in one place.'), key());
    expect(await found(writer, { q: 'watered' })).toEqual(['Watered twice', 'Watering rotas']);
    expect(await found(writer, { q: 'watering' })).toEqual(['Watering rotas', 'Watered twice']);
    // Of several words each may stand in another form, and all must be there.
    expect(await found(writer, { q: 'policies wasting' })).toHaveLength(2);
    expect(await found(writer, { q: 'policies bedding' })).toEqual([]);
    const [marks] = (await search(db, writer, 'UTC', searchSchema.parse({ q: 'watered beds' }))).found;
    expect(marks?.title).toEqual(['', 'Watering', ' rotas']);
    expect(marks?.extract).toEqual(['Who ', 'waters', ' which ', 'bed', '.']);
  });

  it('finds by all words and their beginnings, without accents, marked, titles first, and only what one may see', async () => {
    const writer = actor(people[0]!);
    await writePost(db, writer, open, post('Heated greenhouse', 'The boiler in the greenhouse hums.'), key());
    await writePost(
      db,
      writer,
      open,
      post('Boiler room', 'Closed for the winter. Núria has the key.'),
      key(),
    );
    const { id } = await writePost(db, writer, closed, post('Secret boiler', 'Behind the wall.'), key());
    const outsider = actor(people[10]!);
    expect(await found(outsider, { q: 'boiler' })).toEqual(['Boiler room', 'Heated greenhouse']);
    expect(await found(outsider, { q: 'NURIA boil' })).toEqual(['Boiler room']);
    expect(await found(writer, { q: 'boiler' })).toContain('Secret boiler');
    expect(await found(coordinator, { q: 'boiler' })).toContain('Secret boiler');
    const page = await search(db, outsider, 'UTC', searchSchema.parse({ q: 'nur' }));
    expect(page.found[0]!.extract).toEqual(['Closed for the winter. ', 'Núria', ' has the key.']);

    await writeReply(db, writer, id, { document: text('The plumber knows the boiler.'), files: [] }, key());
    expect(await found(writer, { q: 'plumber' })).toEqual(['Re: Secret boiler']);
    expect(await found(outsider, { q: 'plumber' })).toEqual([]);
  });

  it('follows what is changed and taken down', async () => {
    const writer = actor(people[0]!);
    const { id } = await writePost(db, writer, open, post('Wasps', 'In the loft.'), key());
    await rewritePost(db, writer, id, post('Hornets', 'In the cellar.'));
    expect(await found(writer, { q: 'wasps' })).toEqual([]);
    expect(await found(writer, { q: 'hornets' })).toEqual(['Hornets']);
    await decidePost(db, coordinator, id, { decision: 'hide', note: 'They are gone' });
    expect(await found(coordinator, { q: 'hornets' })).toEqual([]);
    await decidePost(db, coordinator, id, { decision: 'show', note: '' });
    expect(await found(writer, { q: 'hornets' })).toEqual(['Hornets']);
  });

  it('forgets what a correction took out, and knows what it put in', async () => {
    const reader = actor(people[2]!);
    const audience = { kind: 'person', id: reader.id } as const;
    const id = await sendNow(db, { audience, boards: [open] }, { title: 'Meet by the quince' });
    await expandNow(db, id);
    await followAll(db);
    expect(await found(reader, { q: 'quince' })).toEqual(['Meet by the quince']);
    const { announcementId } = await openForChange(db, coordinator, id, 'correct');
    const { revision } = await openAnnouncement(db, coordinator, announcementId);
    await saveRevision(
      db,
      announcementId,
      revision,
      coordinator.id,
      content({ title: 'Meet by the medlar' }),
      plan({ audience, boards: [open] }),
    );
    const correction = {
      revision: revision + 1,
      note: 'Another tree',
      tell: 'nobody',
      askAgain: false,
    } as const;
    await publishCorrection(db, coordinator, announcementId, correction, key());
    for (const who of [reader, actor(people[12]!)]) {
      expect(await found(who, { q: 'quince' })).toEqual([]);
      expect(await found(who, { q: 'medlar' })).toEqual(['Meet by the medlar']);
    }
  });

  it('finds what went out once, however many boards show it, and narrows by what one asks for', async () => {
    const reader = actor(people[1]!);
    const occurrence = await sendNow(
      db,
      {
        audience: { kind: 'person', id: reader.id },
        boards: [open, closed],
        ask: acknowledgement(),
      },
      { title: 'Quarantine for tubers' },
    );
    await expandNow(db, occurrence);
    await followAll(db);
    const page = await search(db, reader, 'UTC', searchSchema.parse({ q: 'quarantine' }));
    expect(page.found.map((each) => each.path)).toEqual([`/for-me/${occurrence}`]);
    expect(await found(actor(people[12]!), { q: 'quarantine' })).toEqual(['Quarantine for tubers']);
    expect(await found(reader, { q: 'quarantine', asks: 'true' })).toHaveLength(1);
    expect(await found(reader, { q: 'quarantine', board: closed })).toHaveLength(1);
    expect(await found(actor(people[12]!), { q: 'quarantine', board: closed })).toEqual([]);
    expect(
      await found(reader, { q: 'boiler', author: people[0]!, kind: 'post', from: '2020-01-01' }),
    ).not.toEqual([]);
    expect(await found(reader, { q: 'boiler', to: '2020-01-01' })).toEqual([]);
    expect(await found(reader, { kind: 'reply' })).toEqual(['Re: Secret boiler']);
    for (const q of ['', '"', "'; DROP", '+-*()~<>@', 'a', '%', '日本'])
      await expect(search(db, reader, 'UTC', searchSchema.parse({ q }))).resolves.toBeDefined();
  });

  it('shows nothing of what was taken out of a text from the moment it was, whether or not anybody follows it up', async () => {
    const writer = actor(people[1]!);
    const reader = actor(people[2]!);
    const { id } = await writePost(
      db,
      writer,
      open,
      post('Keys', 'They hang behind the quicksilver.'),
      key(),
    );
    const reply = await writeReply(
      db,
      reader,
      id,
      { document: text('Not behind the pewter?'), files: [] },
      key(),
    );
    expect(await found(reader, { q: 'quicksilver' })).toEqual(['Keys']);
    expect(await found(reader, { q: 'pewter' })).toEqual(['Re: Keys']);
    await rewritePost(db, writer, id, post('Keys', 'Ask for them.'));
    await rewriteReply(db, reader, reply, { document: text('I shall.'), files: [] });
    const now = async (q: string) =>
      (await search(db, reader, 'UTC', searchSchema.parse({ q }))).found.map((each) => each.title.join(''));
    expect(await now('quicksilver')).toEqual([]);
    expect(await now('pewter')).toEqual([]);
    expect(await found(reader, { q: 'ask them' })).toEqual(['Keys']);
  });
});

describe('thanks', () => {
  it('stand on a board for it with their ribbon, are told to the thanked, and gather by month', async () => {
    const from = actor(people[2]!);
    const { ribbons, boards } = await thanksChoices(db, from);
    expect(boards.map((each) => each.name)).toEqual(['Open']);
    const give = (part: Record<string, unknown> = {}, given = key()) =>
      giveThanks(
        db,
        from,
        {
          ribbonId: ribbons[0]!.id,
          to: [people[3]!, people[4]!],
          sentence: 'For the late shift.',
          boardId: open,
          ...part,
        },
        given,
      );
    const once = key();
    const [a, b] = await Promise.all([give({}, once), give({}, once)]);
    expect(a.id).toBe(b.id);
    const { post: shown } = await openPost(db, actor(people[15]!), a.id);
    expect(shown.thanks).toMatchObject({ sentence: 'For the late shift.', ribbon: { id: ribbons[0]!.id } });
    expect((await told(people[3]!))[0]).toMatchObject({ kind: 'thanks' });
    expect((await personPage(db, actor(people[15]!), people[4]!)).thanks).toHaveLength(1);
    await expect(give({ to: [from.id] })).rejects.toMatchObject({ status: 422 });
    await expect(give({ boardId: closed })).rejects.toMatchObject({ status: 422 });
    const month = new Date().toISOString().slice(0, 7);
    expect(await thanksOfMonth(db, actor(people[15]!), month, 'UTC')).toHaveLength(1);
    const draft = await draftDigest(db, coordinator, month, 'this month', 'UTC');
    const { content: written } = await openAnnouncement(db, coordinator, draft);
    expect(JSON.stringify(written)).toContain('For the late shift.');
    await expect(draftDigest(db, coordinator, '1999-01', 'January 1999', 'UTC')).rejects.toMatchObject({
      status: 422,
    });
    // Taken down, they are shown nowhere.
    await decidePost(db, coordinator, a.id, { decision: 'hide', note: 'By mistake' });
    expect((await personPage(db, actor(people[15]!), people[4]!)).thanks).toEqual([]);
  });

  it('coordinators add ribbons and take them out of use', async () => {
    await expect(
      addRibbon(db, actor(people[2]!), { name: 'Mine', emblem: 'key', colour: 'slate' }),
    ).rejects.toMatchObject({ status: 403 });
    const id = await addRibbon(db, coordinator, {
      name: 'Kettle keeper',
      emblem: 'kettle',
      colour: 'madder',
    });
    await expect(
      addRibbon(db, coordinator, { name: 'kettle keeper', emblem: 'key', colour: 'slate' }),
    ).rejects.toMatchObject({ status: 422 });
    await changeRibbon(db, coordinator, id, true);
    expect((await thanksChoices(db, actor(people[2]!))).ribbons.map((each) => each.id)).not.toContain(id);
  });

  it('on a held board are told only once they are up', async () => {
    const held = await insertBoard(db, {
      name: 'Held thanks',
      about: 'H.',
      groupId: null,
      ...PRESETS.held.switches,
      takesThanks: true,
    });
    const { ribbons } = await thanksChoices(db, actor(people[2]!));
    const given = await giveThanks(
      db,
      actor(people[2]!),
      { ribbonId: ribbons[0]!.id, to: [people[9]!], sentence: 'For waiting.', boardId: held },
      key(),
    );
    expect(given.state).toBe('held');
    expect(await told(people[9]!)).toEqual([]);
    await decidePost(db, coordinator, given.id, { decision: 'approve', note: '' });
    expect(await told(people[9]!)).toHaveLength(1);
    expect((await openBoard(db, actor(people[9]!), held)).posts[0]!.thanks).not.toBeNull();
  });
});

describe('the shelf', () => {
  it('gives the best answers as one types, hands on what found nothing, and publishes with one press', async () => {
    const vaults = await addSubject(db, coordinator, { name: 'Vaults', parentId: null });
    const keysSubject = await addSubject(db, coordinator, { name: 'Keys', parentId: vaults });
    await expect(
      addSubject(db, coordinator, { name: 'Deeper', parentId: keysSubject }),
    ).rejects.toMatchObject({
      status: 422,
    });
    const write = (question: string, words: string, published = true, settles: number | null = null) =>
      writeAnswer(db, coordinator, {
        question,
        document: text(words),
        subjectId: keysSubject,
        occurrenceId: null,
        boardId: null,
        published,
        settles,
      });
    const key1 = await write('Who may hold a vault key?', 'Whoever did the drill.');
    await write('Where is the first aid box?', 'Beside the door of every vault.');
    const asker = actor(people[5]!);
    expect((await best(db, 'who is allowed to have keys for the vault?')).map((each) => each.id)[0]).toBe(
      key1,
    );
    expect(await best(db, 'the and of it')).toEqual([]);
    await askShelf(
      db,
      asker,
      { text: 'vault key', helpedBy: key1, found: 2, offered: [], note: '', named: false },
      key(),
    );
    const once = key();
    const question = {
      text: 'May my dog come in?',
      helpedBy: null,
      found: 0,
      offered: [],
      note: '',
      named: false,
    };
    const [a, b] = await Promise.all([
      askShelf(db, asker, question, once),
      askShelf(db, asker, question, once),
    ]);
    expect(a).toEqual(b);
    const desk = await shelfDesk(db, coordinator);
    expect(desk.open.map((each) => each.text)).toEqual(['May my dog come in?']);
    expect(desk.foundNothing.map((each) => each.text)).toEqual(['May my dog come in?']);
    expect(desk.mostAsked[0]).toMatchObject({ id: key1, n: 1 });
    await expect(shelfDesk(db, asker)).rejects.toMatchObject({ status: 403 });

    const answer = await write('May dogs come in?', 'On a lead, yes.', false, desk.open[0]!.id);
    expect((await told(asker.id))[0]).toMatchObject({
      kind: 'shelf',
      path: `/shelf/${answer}`,
    });
    await expect(openAnswer(db, actor(people[6]!), answer)).rejects.toMatchObject({ status: 404 });
    expect((await openAnswer(db, asker, answer)).published).toBe(false);
    expect(await best(db, 'dog')).toEqual([]);
    await publishToAll(db, coordinator, answer);
    expect((await best(db, 'dog')).map((each) => each.id)).toEqual([answer]);
    expect((await openAnswer(db, actor(people[6]!), answer)).html).toContain('On a lead');
    expect((await listSubjects(db)).find((each) => each.id === vaults)!.answers).toBe(3);
    expect(await answersUnder(db, vaults)).toHaveLength(3);
    await expect(closeQuestion(db, coordinator, desk.open[0]!.id, 'Too late')).rejects.toMatchObject({
      status: 409,
    });
    const next = await askShelf(
      db,
      asker,
      { text: 'And cats?', helpedBy: null, found: 1, offered: [], note: '', named: false },
      key(),
    );
    await pointTo(db, coordinator, next.id, answer);
    await removeAnswer(db, coordinator, answer);
    expect(await best(db, 'dog')).toEqual([]);
  });
});
