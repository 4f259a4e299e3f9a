import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { PRESETS, type Purpose } from '../../src/core/boards/switches.ts';
import type { NewPost } from '../../src/core/boards/board.ts';
import type { Doc, Inline } from '../../src/core/content/document.ts';
import type { Actor, BoardPermission } from '../../src/core/rights/decide.ts';
import { listBoards, openBoard, readOnBoard, followBoard } from '../../src/server/boards/service.ts';
import {
  appointModerator,
  boardSettings,
  makeBoard,
  changeBoardSettings,
} from '../../src/server/boards/settings.ts';
import { boardForSession } from '../../src/server/boards/session.ts';
import { insertBoard, setModerator } from '../../src/server/boards/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { forMe, readItem } from '../../src/server/inbox/service.ts';
import { listNotices } from '../../src/server/notices/service.ts';
import { rewritePost, takeDownOwn, writePost } from '../../src/server/posts/writing.ts';
import { passOn } from '../../src/server/posts/passingOn.ts';
import { arrangePins, pin } from '../../src/server/posts/pinning.ts';
import { reportPost } from '../../src/server/posts/reporting.ts';
import { decidePost } from '../../src/server/posts/moderating.ts';
import { earlierTexts, earlierThan, openPost } from '../../src/server/posts/opening.ts';
import { insertMemberPost } from '../../src/server/posts/store.ts';
import { postOccurrence } from '../../src/server/posts/occurrencePostStore.ts';
import { react } from '../../src/server/reactions/service.ts';
import {
  decideReply,
  draftOfReply,
  earlierTextsOfReply,
  rewriteReply,
  writeReply,
} from '../../src/server/replies/service.ts';
import { keepFile, keepImage } from '../../src/server/uploads/service.ts';
import { deskToday } from '../../src/server/desk/service.ts';
import { after } from '../../src/server/after/service.ts';
import {
  BOARD_TABLE,
  PERMISSIONS,
  expectedOutcome,
  ROLES_ON_BOARD,
  type RoleOnBoard,
} from '../boardTable.ts';
import { expandNow } from './expandNow.ts';
import { addGroup, addPeople, coordinator, countOf, freshDatabase, sendNow, followAll } from './world.ts';

let db: Database;
let people: number[];
let group: number;
const actor = (id: number, part: Partial<Actor> = {}): Actor => ({
  id,
  role: 'member',
  moderates: new Set(),
  mayReach: new Set(),
  ...part,
});
const doc = (...content: Inline[]): Doc => ({ type: 'doc', content: [{ type: 'paragraph', content }] });
const text = (words: string): Doc => doc({ type: 'text', text: words });
const post = (title = 'Kettle', document = text('Mended.')): NewPost => ({
  title,
  document,
  image: null,
  gallery: [],
  files: [],
});
let keys = 0;
const key = (): string => `boards-key-${++keys}`;
const statusOf = (work: Promise<unknown>): Promise<number> =>
  work.then(
    () => 200,
    (error: unknown) => (error as { status?: number }).status ?? 500,
  );
const titles = async (id: number): Promise<string[]> => {
  await followAll(db);
  return (await listNotices(db, id, null)).notices.map((notice) => `${notice.kind}: ${notice.title}`);
};
let made = 0;
/** A board of the group, owned by the first person and moderated by the second. */
async function board(purpose: Purpose, part: { name?: string; everybody?: boolean } = {}): Promise<number> {
  const id = await insertBoard(db, {
    name: part.name ?? `${purpose} ${++made}`,
    about: 'For the test.',
    groupId: part.everybody ? null : group,
    ...PRESETS[purpose].switches,
    ownerId: people[0]!,
  });
  await setModerator(db, id, people[1]!, true);
  return id;
}
const moderator = (id: number): Actor => actor(people[1]!, { moderates: new Set([id]) });

beforeAll(async () => {
  ({ db } = await freshDatabase('boards'));
  people = await addPeople(db, 30, 1);
  group = await addGroup(db, 'The ten', people.slice(0, 10));
});
afterAll(() => db.destroy());

describe('every permission of every role on every kind of board', () => {
  const ids = (): Record<RoleOnBoard, number> => ({
    c: coordinator.id,
    o: people[0]!,
    m: people[1]!,
    e: people[2]!,
    p: people[3]!,
    x: people[20]!,
  });
  it.each(Object.keys(BOARD_TABLE) as (keyof typeof BOARD_TABLE)[])('%s', async (kind) => {
    const id = await board(kind === 'archived' ? 'talk' : kind, { everybody: kind === 'everybody' });
    const postId = await insertOwnPost(id, people[4]!);
    if (kind === 'archived') await changeBoardSettings(db, coordinator, id, { archived: true });
    for (const role of Object.keys(ROLES_ON_BOARD) as RoleOnBoard[]) {
      const who = actor(ids()[role], {
        role: role === 'c' ? 'coordinator' : role === 'e' ? 'editor' : 'member',
        moderates: new Set(role === 'm' ? [id] : []),
      });
      const everybody: Inline = { type: 'mention', attrs: { kind: 'everybody', id, label: 'all' } };
      const TRY: Partial<Record<BoardPermission, () => Promise<unknown>>> = {
        post: () => writePost(db, who, id, post(), key()),
        reply: () => writeReply(db, who, postId, { document: text('So?'), files: [] }, key()),
        react: () => react(db, who, { subject: 'post', id: postId }, 'glad', true),
        pin: () => pin(db, who, postId, { pinned: true, until: null, replaces: null }, 'UTC'),
        'mention everybody': () => writePost(db, who, id, post('Call', doc(everybody)), key()),
        moderate: () => decidePost(db, who, postId, { decision: 'lock', note: '' }),
        'change settings': () => changeBoardSettings(db, who, id, { pinLimit: 9 }),
      };
      for (const permission of PERMISSIONS) {
        const work = TRY[permission];
        if (!work) continue;
        // Calling on everybody is done in a post, so it needs the right to post as well.
        const needed: BoardPermission[] =
          permission === 'mention everybody' ? ['post', permission] : [permission];
        const may = needed.every((each) => expectedOutcome(kind, each, role) !== 'denied');
        const hidden = role === 'x' && kind !== 'everybody';
        // A post one may not see is as if it were not there; a reply to one says that it is gone.
        const refused = hidden ? (permission === 'reply' ? 409 : 404) : 403;
        expect(await statusOf(work()), `${ROLES_ON_BOARD[role]}: ${permission}`).toBe(may ? 200 : refused);
        await db('posts').where({ id: postId }).update({ locked_at: null, pinned_at: null, pin_place: null });
      }
    }
  });
});

async function insertOwnPost(boardId: number, author: number): Promise<number> {
  const open = await board('talk');
  const { id } = await writePost(db, actor(author), open, post('Already there'), key());
  const [row] = await rows<{ versionId: number }>(
    db,
    'SELECT version_id AS versionId FROM posts WHERE id = ?',
    [id],
  );
  return insertMemberPost(db, { boardId, versionId: row!.versionId, authorId: author, key: key() });
}

describe('a held post', () => {
  it('waits, is told of, is decided by one of two moderators, and its author hears of it', async () => {
    const id = await board('held');
    const author = actor(people[5]!);
    const written = await writePost(db, author, id, post('Labels twice'), key());
    expect(written.state).toBe('held');
    expect((await openBoard(db, actor(people[6]!), id)).posts).toEqual([]);
    await expect(openPost(db, actor(people[6]!), written.id)).rejects.toMatchObject({ status: 404 });
    expect((await openBoard(db, author, id)).queue.map((each) => each.state)).toEqual(['held']);
    expect((await openBoard(db, moderator(id), id)).queue).toHaveLength(1);
    expect(await titles(people[1]!)).toContain('held: Labels twice');
    const desk = await deskToday(db, { actor: coordinator, name: 'C', zone: 'UTC', owns: false });
    expect(desk.boards).toContainEqual(expect.objectContaining({ id, waiting: 1 }));

    const both = await Promise.all(
      [moderator(id), coordinator].map((who) =>
        statusOf(
          decidePost(
            db,
            who,
            written.id,
            who === coordinator ? { decision: 'decline', note: '' } : { decision: 'approve', note: '' },
          ),
        ),
      ),
    );
    expect(both.sort()).toEqual([200, 409]);
    expect((await titles(people[5]!)).filter((each) => each.startsWith('decision'))).toHaveLength(1);
  });

  it('comes back with a word, is written anew, waits again, and goes up', async () => {
    const id = await board('held');
    const author = actor(people[5]!);
    const { id: postId } = await writePost(db, author, id, post('Draft'), key());
    await followAll(db);
    await decidePost(db, moderator(id), postId, { decision: 'return', note: 'Say which drawer.' });
    const [own] = (await openBoard(db, author, id)).queue;
    expect(own).toMatchObject({ state: 'returned', note: { text: 'Say which drawer.' } });
    expect(await rewritePost(db, author, postId, post('Drawer forty'))).toEqual({
      id: postId,
      state: 'held',
    });
    await followAll(db);
    await decidePost(db, moderator(id), postId, { decision: 'approve', note: '' });
    const [up] = (await openBoard(db, actor(people[6]!), id)).posts;
    expect(up).toMatchObject({ title: 'Drawer forty', state: 'up' });
    // Held and returned a second time is told a second time.
    await changeBoardSettings(db, coordinator, id, { posting: 'moderators' });
    expect(await rewritePost(db, author, postId, post('Drawer forty, mended'))).toMatchObject({
      state: 'up',
    });
    await changeBoardSettings(db, coordinator, id, { posting: 'held' });
    expect(
      (await titles(people[1]!)).filter((each) => /^held: (Draft|Drawer forty)$/.test(each)),
    ).toHaveLength(2);
    // Earlier versions are for those who moderate and its author, and nobody else.
    expect((await earlierTexts(db, moderator(id), postId)).map((each) => each.title)).toEqual([
      'Drawer forty',
      'Draft',
    ]);
    await expect(earlierTexts(db, actor(people[6]!), postId)).rejects.toMatchObject({ status: 403 });
  });

  it('cannot be let up by a moderator who wrote it', async () => {
    const id = await board('held');
    const [row] = [await insertOwnPost(id, people[1]!)];
    await db('posts').where({ id: row }).update({ state: 'held' });
    await expect(decidePost(db, moderator(id), row, { decision: 'approve', note: '' })).rejects.toMatchObject(
      { status: 403 },
    );
  });
});

describe('talking', () => {
  it('replies are told to those who take part, and refused once the post is gone, locked or the role lost', async () => {
    const id = await board('talk');
    const { id: postId } = await writePost(db, actor(people[3]!), id, post('Road'), key());
    const key1 = key();
    const reply = { document: text('Is it open?'), files: [] };
    const [a, b] = await Promise.all([
      writeReply(db, actor(people[4]!), postId, reply, key1),
      writeReply(db, actor(people[4]!), postId, reply, key1),
    ]);
    expect(a).toBe(b);
    expect(await titles(people[3]!)).toContain('reply: Re: Road');
    await writeReply(db, actor(people[5]!), postId, reply, key());
    expect(await titles(people[4]!)).toContain('reply: Re: Road');
    expect((await openPost(db, actor(people[6]!), postId)).post.replies).toBe(2);

    await decidePost(db, moderator(id), postId, { decision: 'lock', note: '' });
    await expect(writeReply(db, actor(people[5]!), postId, reply, key())).rejects.toMatchObject({
      status: 409,
    });
    await decidePost(db, moderator(id), postId, { decision: 'unlock', note: '' });
    // A moderator who is one no longer when the decision arrives.
    await expect(
      decidePost(db, actor(people[7]!), postId, { decision: 'hide', note: 'Wrong place' }),
    ).rejects.toMatchObject({ status: 403 });
    await takeDownOwn(db, actor(people[3]!), postId);
    await expect(writeReply(db, actor(people[5]!), postId, reply, key())).rejects.toMatchObject({
      status: 409,
      message: expect.stringContaining('Your text is still here') as string,
    });
  });

  it('a name called on is the one in the directory, tells only who may see the board, and everybody needs the right', async () => {
    const id = await board('talk');
    const call = (kind: 'person' | 'everybody', target: number): Doc =>
      doc({ type: 'mention', attrs: { kind, id: target, label: 'The Queen' } });
    const { id: postId } = await writePost(
      db,
      actor(people[3]!),
      id,
      post('Look', {
        type: 'doc',
        content: [...call('person', people[6]!).content, ...call('person', people[25]!).content],
      }),
      key(),
    );
    const { post: shown } = await openPost(db, actor(people[4]!), postId);
    expect(shown.html).not.toContain('The Queen');
    expect(await titles(people[6]!)).toContain('mention: Look');
    expect(await titles(people[25]!)).not.toContain('mention: Look');
    await expect(
      writePost(db, actor(people[3]!), id, post('All', call('everybody', id)), key()),
    ).rejects.toMatchObject({ status: 403 });
    await writePost(db, moderator(id), id, post('Everybody here', call('everybody', id)), key());
    await followAll(db);
    const told = await countOf(db, "FROM notices WHERE kind = 'mention' AND title = 'Everybody here'");
    // The ten, the coordinator, and not the one who wrote it.
    expect(told).toBe(10);
  });

  it('two hundred react in one moment, each once; the author hears nothing of it', async () => {
    const many = await addPeople(db, 200, 2);
    const id = await board('everybody', { everybody: true });
    const { id: postId } = await writePost(db, actor(people[3]!), id, post('Good news'), key());
    await Promise.all(
      many.flatMap((person) => [
        react(db, actor(person), { subject: 'post', id: postId }, 'glad', true),
        react(db, actor(person), { subject: 'post', id: postId }, 'glad', true),
      ]),
    );
    const { post: shown } = await openPost(db, actor(many[0]!), postId);
    expect(shown.reactions).toEqual({ glad: { n: 200, mine: true } });
    await react(db, actor(many[0]!), { subject: 'post', id: postId }, 'glad', false);
    expect((await openPost(db, actor(many[0]!), postId)).post.reactions.glad).toEqual({
      n: 199,
      mine: false,
    });
  });

  it('five thousand replies are read in parts, none twice and none missing', async () => {
    const id = await board('talk');
    const { id: postId } = await writePost(db, actor(people[3]!), id, post('Long'), key());
    await db.raw(
      `INSERT INTO replies (post_id, author_id, document, files, idempotency_key)
       SELECT ?, ?, ?, '[]', CONCAT('many-', seq) FROM seq_1_to_5000`,
      [postId, people[4]!, JSON.stringify(text('Yes.'))],
    );
    const page = await openPost(db, actor(people[5]!), postId);
    const seen = page.replies.map((each) => each.id);
    let from = page.earlier;
    for (let i = 0; i < 5 && from !== null; i++) {
      const next = await earlierThan(db, actor(people[5]!), postId, from);
      seen.unshift(...next.replies.map((each) => each.id));
      from = next.earlier;
    }
    expect(seen).toHaveLength(180);
    expect(seen).toEqual([...new Set(seen)].sort((x, y) => x - y));
  });

  it('what is hidden shows that it was there, and what it said to moderators and its author only', async () => {
    const id = await board('talk');
    const { id: postId } = await writePost(db, actor(people[3]!), id, post('Hill'), key());
    const replyId = await writeReply(
      db,
      actor(people[4]!),
      postId,
      { document: text('Something rude.'), files: [] },
      key(),
    );
    await reportPost(db, actor(people[5]!), postId, 'Look at the reply');
    await reportPost(db, actor(people[5]!), postId, 'Look at the reply');
    expect((await openBoard(db, moderator(id), id)).reports).toHaveLength(1);
    expect((await openBoard(db, actor(people[5]!), id)).reports).toEqual([]);
    await decideReply(db, moderator(id), replyId, 'hidden', 'Be kind.');
    const as = async (who: Actor) => (await openPost(db, who, postId)).replies[0]!;
    expect(await as(actor(people[5]!))).toMatchObject({ state: 'hidden', html: '', note: null });
    expect((await as(actor(people[4]!))).note?.text).toBe('Be kind.');
    expect((await as(moderator(id))).html).toContain('Something rude.');
    await decidePost(db, moderator(id), postId, { decision: 'hide', note: 'For now' });
    expect((await openBoard(db, moderator(id), id)).reports).toEqual([]);
    await expect(openPost(db, actor(people[5]!), postId)).rejects.toMatchObject({ status: 404 });
    const deeds = (await boardSettings(db, moderator(id), id)).deeds.map((deed) => deed.action);
    expect(deeds).toEqual(expect.arrayContaining(['hide post', 'hide reply', 'report post', 'post']));
  });
});

describe('a reply', () => {
  it('is written anew by its author alone; what it said before is for them and who moderates, the latest first', async () => {
    const id = await board('talk');
    const { id: postId } = await writePost(db, actor(people[3]!), id, post('Ladder'), key());
    const reply = (words: string) => ({ document: text(words), files: [] });
    const replyId = await writeReply(db, actor(people[4]!), postId, reply('As it was.'), key());
    await rewriteReply(db, actor(people[4]!), replyId, reply('As it became.'));
    await rewriteReply(db, actor(people[4]!), replyId, reply('As it is.'));
    for (const other of [actor(people[5]!), moderator(id)]) {
      await expect(rewriteReply(db, other, replyId, reply('Not theirs.'))).rejects.toMatchObject({
        status: 403,
      });
      await expect(draftOfReply(db, other, replyId)).rejects.toMatchObject({ status: 403 });
    }
    expect((await draftOfReply(db, actor(people[4]!), replyId)).document).toEqual(text('As it is.'));
    for (const reader of [actor(people[4]!), moderator(id)])
      expect((await earlierTextsOfReply(db, reader, replyId)).map(({ html }) => html)).toEqual([
        expect.stringContaining('As it became.'),
        expect.stringContaining('As it was.'),
      ]);
    await expect(earlierTextsOfReply(db, actor(people[5]!), replyId)).rejects.toMatchObject({ status: 403 });
    // Once it is hidden nobody writes it anew under its decision.
    await decideReply(db, moderator(id), replyId, 'hidden', 'Be kind.');
    await expect(rewriteReply(db, actor(people[4]!), replyId, reply('Again.'))).rejects.toMatchObject({
      status: expect.any(Number) as number,
    });
    expect(await earlierTextsOfReply(db, moderator(id), replyId)).toHaveLength(2);
  });
});

describe('what is pinned', () => {
  it('keeps to its limit however many pin at once, says what it replaces, has an order and an end', async () => {
    const id = await board('talk');
    await changeBoardSettings(db, coordinator, id, { pinLimit: 2 });
    const posts = await Promise.all(
      ['one', 'two', 'three', 'four'].map((title) =>
        writePost(db, actor(people[3]!), id, post(title), key()),
      ),
    );
    const settle = { pinned: true, until: null, replaces: null };
    const outcomes = await Promise.all(
      posts.map(({ id: each }) => statusOf(pin(db, moderator(id), each, settle, 'UTC'))),
    );
    expect(outcomes.filter((status) => status === 200)).toHaveLength(2);
    const pinned = async () => (await openBoard(db, coordinator, id)).pinned.map((each) => each.id);
    const before = await pinned();
    const other = posts.map((each) => each.id).find((each) => !before.includes(each))!;
    await expect(pin(db, moderator(id), other, settle, 'UTC')).rejects.toMatchObject({
      status: 409,
      more: { pinned: [{ id: before[0] }, { id: before[1] }] },
    });
    await pin(db, moderator(id), other, { ...settle, replaces: before[0]! }, 'UTC');
    expect(await pinned()).toEqual([before[1], other]);
    await arrangePins(db, moderator(id), id, [other, before[1]!]);
    expect(await pinned()).toEqual([other, before[1]]);
    await expect(
      pin(db, moderator(id), other, { ...settle, until: '2020-01-01' }, 'UTC'),
    ).rejects.toMatchObject({ status: 422 });
    await pin(db, moderator(id), other, { ...settle, until: '2099-12-31' }, 'Pacific/Auckland');
    const [first] = (await openBoard(db, coordinator, id)).pinned;
    expect(new Date(first!.pinUntilMs!).toISOString()).toBe('2099-12-31T11:00:00.000Z');
    await db('posts')
      .where({ id: other })
      .update({ pin_until: new Date(Date.now() - 1000) });
    expect(await pinned()).toEqual([before[1]]);
    await db('posts').where({ id: before[1]! }).update({ pinned_at: '2020-01-01' });
    expect((await openBoard(db, coordinator, id)).pinned[0]!.stale).toBe(true);
    const desk = await deskToday(db, { actor: coordinator, name: 'C', zone: 'UTC', owns: false });
    expect(desk.stale.map((each) => each.postId)).toContain(before[1]);
  });
});

describe('reading', () => {
  it('an announcement on three boards and in the inbox is one line, and read on all once it is read on one', async () => {
    const boards = [
      await board('news', { name: 'A' }),
      await board('news', { name: 'B' }),
      await board('news', { name: 'C' }),
    ];
    const reader = actor(people[8]!);
    // Whoever follows one of the boards is told of it once, unless their inbox has it.
    await followBoard(db, actor(people[7]!), boards[0]!, 'follow');
    await followBoard(db, actor(people[7]!), boards[1]!, 'follow');
    await followBoard(db, reader, boards[0]!, 'follow');
    const onlyBoards = await sendNow(db, { audience: null, boards }, { title: 'On three boards' });
    await expandNow(db, onlyBoards);
    const both = await sendNow(
      db,
      { audience: { kind: 'person', id: reader.id }, boards },
      { title: 'And to me' },
    );
    await expandNow(db, both);
    expect((await titles(people[7]!)).filter((each) => each.startsWith('post:'))).toEqual([
      'post: And to me',
      'post: On three boards',
    ]);
    expect((await titles(reader.id)).filter((each) => each.startsWith('post:'))).toEqual([
      'post: On three boards',
    ]);
    const lines = async () => (await forMe(db, reader, null)).lines;
    expect((await lines()).filter((each) => each.title === 'On three boards')).toHaveLength(1);
    const [mine] = (await lines()).filter((each) => each.title === 'And to me');
    expect(mine).toMatchObject({ path: `/for-me/${both}`, read: false, board: null });
    const unread = async () =>
      (await listBoards(db, reader)).filter((each) => boards.includes(each.id)).map((each) => each.unread);
    expect(await unread()).toEqual([2, 2, 2]);
    await readItem(db, reader.id, both);
    expect(await unread()).toEqual([1, 1, 1]);
    const [firstPost] = (await openBoard(db, reader, boards[0]!)).posts;
    await readOnBoard(db, reader, boards[0]!, { toMs: firstPost!.postedMs });
    expect(await unread()).toEqual([0, 0, 0]);
    const named = (await lines()).filter((each) => ['On three boards', 'And to me'].includes(each.title));
    expect(named.map((each) => each.read)).toEqual([true, true]);
    // Another device of the same person asks the same server; another person still has it all to read.
    const other = (await listBoards(db, actor(people[9]!))).filter((each) => boards.includes(each.id));
    expect(other.map((each) => each.unread)).toEqual([2, 2, 2]);
    await followBoard(db, reader, boards[0]!, 'mute');
    await followBoard(db, reader, boards[1]!, 'mute');
    await followBoard(db, reader, boards[2]!, 'mute');
    expect((await lines()).filter((each) => each.title === 'On three boards')).toEqual([]);
  });

  it('For me goes on page by page over inbox and boards without missing or repeating', async () => {
    const id = await board('talk', { name: 'Pages' });
    const reader = actor(people[9]!);
    for (let i = 0; i < 35; i++) {
      await writePost(db, actor(people[3]!), id, post(`Post ${i}`), key());
      if (i % 2 === 0)
        await expandNow(
          db,
          await sendNow(db, { audience: { kind: 'person', id: reader.id } }, { title: `To me ${i}` }),
        );
    }
    const seen: string[] = [];
    let next: Awaited<ReturnType<typeof forMe>>['next'] = null;
    do {
      const page: Awaited<ReturnType<typeof forMe>> = await forMe(db, reader, next);
      seen.push(...page.lines.map((each) => each.key));
      next = page.next;
    } while (next);
    expect(new Set(seen).size).toBe(seen.length);
    const wanted = seen.filter((each) => /^[ap]/.test(each)).length;
    expect(wanted).toBeGreaterThanOrEqual(53);
  });

  it('passed on, it is quoted as it stands, says where it is from only to those who may see that, and tells its author', async () => {
    const secret = await board('talk', { name: 'Inner circle' });
    const wide = await board('everybody', { everybody: true });
    await changeBoardSettings(db, coordinator, secret, { passing: true });
    const words = text('Worth a look.');
    const { id: first } = await writePost(db, actor(people[3]!), secret, post('Found'), key());
    const pass = (who: number) => passOn(db, actor(who), first, { boardId: wide, document: words }, key());
    const { id: passed } = await pass(people[4]!);
    const inside = await openPost(db, actor(people[5]!), passed);
    expect(inside.post.quote).toMatchObject({
      state: 'up',
      title: 'Found',
      board: 'Inner circle',
      path: `/posts/${first}`,
    });
    expect(inside.post.html).toContain('Worth a look.');
    const outside = await openPost(db, actor(people[25]!), passed);
    expect(JSON.stringify(outside)).not.toContain('Inner circle');
    expect(outside.post.quote).toMatchObject({
      board: null,
      path: null,
      author: expect.any(String) as string,
    });
    await expect(pass(people[25]!)).rejects.toMatchObject({ status: 404 });
    expect(await titles(people[3]!)).toContain('reply: Passed on: Found');

    // It follows the original, and whoever passed it on changes their own words alone.
    await rewritePost(db, actor(people[3]!), first, post('Found again', text('Behind the shed.')));
    await rewritePost(db, actor(people[4]!), passed, post('Not mine', text('Changed my mind.')));
    const after = await openPost(db, actor(people[25]!), passed);
    expect(after.post).toMatchObject({ title: 'Passed on by Person 00006', quote: { title: 'Found again' } });
    expect((await openPost(db, actor(people[3]!), first)).post.title).toBe('Found again');
    expect((await earlierTexts(db, actor(people[3]!), first)).map((each) => each.title)).toEqual(['Found']);
    expect((await earlierTexts(db, actor(people[4]!), passed)).map((each) => each.html).join()).not.toContain(
      'shed',
    );
    await takeDownOwn(db, actor(people[3]!), first);
    expect((await openPost(db, actor(people[25]!), passed)).post.quote).toEqual({ state: 'gone' });

    // A board of few, and one that holds posts, does not have its posts passed on unless it says so.
    const few = await board('held');
    const { id: kept } = await writePost(db, actor(people[0]!), few, post('Among us'), key());
    await expect(
      passOn(db, actor(people[4]!), kept, { boardId: wide, document: words }, key()),
    ).rejects.toMatchObject({ status: 403 });
    expect((await openPost(db, actor(people[4]!), kept)).passableTo).toEqual([]);
  });

  it('a link to a page of the organisation shows what it leads to, and only to those who may see that', async () => {
    process.env.CLEAR_BELL_URL = 'http://bell.test';
    const secret = await board('talk', { name: 'Behind the door' });
    const wide = await board('everybody', { everybody: true });
    const { id: first } = await writePost(db, actor(people[3]!), secret, post('The plan'), key());
    const link = (href: string): Inline => ({
      type: 'text',
      text: 'here',
      marks: [{ type: 'link', attrs: { href } }],
    });
    const { id } = await writePost(
      db,
      actor(people[3]!),
      wide,
      post('Look', doc(link(`http://bell.test/posts/${first}`), link('https://elsewhere.example/posts/1'))),
      key(),
    );
    expect((await openPost(db, actor(people[4]!), id)).post.previews).toEqual([
      {
        path: `/posts/${first}`,
        title: 'The plan',
        detail: expect.stringContaining('Behind the door') as string,
      },
    ]);
    const outside = await openPost(db, actor(people[25]!), id);
    expect(outside.post.previews).toEqual([]);
    expect(JSON.stringify(outside)).not.toContain('The plan');
  });

  it('what went out is reacted to in the inbox, which whoever sent it sees beside what boards say', async () => {
    const id = await board('news', { name: 'Reacted' });
    const occurrence = await sendNow(
      db,
      { audience: { kind: 'person', id: people[8]! }, boards: [id] },
      { title: 'React' },
    );
    await expandNow(db, occurrence);
    await react(db, actor(people[8]!), { subject: 'occurrence', id: occurrence }, 'heard', true);
    const [shown] = (await openBoard(db, actor(people[7]!), id)).posts;
    await react(db, actor(people[7]!), { subject: 'post', id: shown!.id }, 'heard', true);
    await expect(
      react(db, actor(people[7]!), { subject: 'occurrence', id: occurrence }, 'heard', true),
    ).rejects.toMatchObject({ status: 404 });
    expect((await after(db, coordinator, occurrence)).reactions).toEqual([{ kind: 'heard', n: 2 }]);
  });
});

describe('a board itself', () => {
  it('is made from a purpose, adjusted, given moderators and archived; its owner moderates always', async () => {
    await expect(
      makeBoard(db, actor(people[3]!), { name: 'Mine', about: 'Mine.', purpose: 'talk', groupId: null }),
    ).rejects.toMatchObject({ status: 403 });
    const id = await makeBoard(db, coordinator, {
      name: 'Drying rooms',
      about: 'Heat.',
      purpose: 'news',
      groupId: group,
    });
    await expect(
      makeBoard(db, coordinator, { name: 'drying ROOMS', about: 'Again.', purpose: 'talk', groupId: null }),
    ).rejects.toMatchObject({ status: 422, errors: [expect.objectContaining({ field: 'name' })] });
    await appointModerator(db, coordinator, id, people[4]!, true);
    await expect(appointModerator(db, coordinator, id, coordinator.id, false)).rejects.toMatchObject({
      status: 422,
    });
    await expect(
      changeBoardSettings(db, actor(people[4]!, { moderates: new Set([id]) }), id, { groupId: null }),
    ).rejects.toMatchObject({ status: 403 });
    const settings = await boardSettings(db, actor(people[5]!), id);
    expect(settings.denied).toContain('Only those who moderate Drying rooms change its settings');
    expect(settings.moderators.map((each) => each.owner)).toContain(true);
    await changeBoardSettings(db, coordinator, id, { archived: true });
    const page = await openBoard(db, actor(people[5]!), id);
    expect(page.posting).toMatchObject({ outcome: 'denied' });
    await changeBoardSettings(db, coordinator, id, { archived: false });
  });

  it('takes what goes out by a plan no longer once it is archived or takes nothing that recurs', async () => {
    const id = await board('news');
    const send = () => sendNow(db, { audience: { kind: 'person', id: people[8]! }, boards: [id] });
    const first = await send();
    await changeBoardSettings(db, coordinator, id, { archived: true });
    await expandNow(db, first);
    expect(await countOf(db, 'FROM posts WHERE board_id = ?', [id])).toBe(0);
    await changeBoardSettings(db, coordinator, id, { archived: false });
    const second = await send();
    await db.raw(
      `UPDATE sends s JOIN occurrences o ON o.send_id = s.id SET s.plan = JSON_SET(s.plan, '$.timing.kind', 'recurring') WHERE o.id = ?`,
      [second],
    );
    await changeBoardSettings(db, coordinator, id, { automations: false });
    const [row] = await rows<{ versionId: number }>(
      db,
      'SELECT version_id AS versionId FROM occurrences WHERE id = ?',
      [second],
    );
    const again = {
      id: second,
      versionId: row!.versionId,
      createdBy: coordinator.id,
      plan: { boards: [id] },
    };
    await postOccurrence(db, again);
    expect(await countOf(db, 'FROM posts WHERE board_id = ?', [id])).toBe(0);
    await changeBoardSettings(db, coordinator, id, { automations: true });
    await postOccurrence(db, again);
    expect(await countOf(db, 'FROM posts WHERE board_id = ?', [id])).toBe(1);
  });

  it('for those who sign up for an event follows the sign-ups', async () => {
    const occurrence = await sendNow(
      db,
      { audience: { kind: 'person', id: people[8]! } },
      {
        title: 'Open morning',
        event: {
          wall: '2099-05-01T09:00',
          zone: 'Europe/London',
          minutes: 60,
          place: 'Hall',
          link: '',
          signUp: true,
        },
      },
    );
    await expandNow(db, occurrence);
    const id = await boardForSession(db, coordinator, occurrence);
    expect(await boardForSession(db, coordinator, occurrence)).toBe(id);
    const comes = actor(people[12]!);
    await expect(openBoard(db, comes, id)).rejects.toMatchObject({ status: 404 });
    const [row] = await rows<{ mail: string }>(db, 'SELECT mail FROM people WHERE id = ?', [comes.id]);
    await db('sign_ups').insert({
      occurrence_id: occurrence,
      shared_by: people[8]!,
      name: 'X',
      mail: row!.mail,
    });
    const page = await openBoard(db, comes, id);
    expect(page.board.whose).toContain('live group');
    expect(page.posting.outcome).toBe('allowed');
    await changeBoardSettings(db, coordinator, id, { name: 'Open morning, who brings what' });
  });

  it('takes no upload that lies about what it is, from members as from anybody', async () => {
    const who = actor(people[3]!);
    const script = Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>');
    await expect(keepImage(db, who, script, 'a.png')).rejects.toMatchObject({ status: 422 });
    await expect(keepFile(db, who, Buffer.from('MZ\u0000\u0001'), 'a.pdf')).rejects.toMatchObject({
      status: 422,
    });
    await db.raw(
      `INSERT INTO uploads (upload_key, uploaded_by, name, mime, bytes) SELECT LPAD(seq, 22, 'x'), ?, 'a', 'text/plain', '' FROM seq_1_to_40`,
      [who.id],
    );
    await expect(keepFile(db, who, Buffer.from('text'), 'a.txt')).rejects.toMatchObject({ status: 429 });
  });
});
