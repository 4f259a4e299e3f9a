import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { USUAL_CHASE } from '../../src/core/asks/chase.ts';
import { EMPTY_POLL } from '../../src/core/asks/poll/poll.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { plainSection } from '../../src/core/content/section.ts';
import type { Plan } from '../../src/core/plan/plan.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { searchSchema } from '../../src/core/search/searchSchema.ts';
import { isOverdue } from '../../src/core/sends/send.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import type { Session } from '../../src/server/accounts/service.ts';
import { after } from '../../src/server/after/service.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { answer, takeBackAcknowledgement } from '../../src/server/asks/answering.ts';
import { askBox } from '../../src/server/asks/boxes.ts';
import { ballotsPage } from '../../src/server/asks/results.ts';
import { callableOn, groupsCallableOn } from '../../src/server/boards/callable.ts';
import { membersOfBoard, openBoard, readOnBoard } from '../../src/server/boards/service.ts';
import { boardSettings, changeBoardSettings } from '../../src/server/boards/settings.ts';
import { insertBoard, setModerator } from '../../src/server/boards/store.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { layOut } from '../../src/server/engine/layingOut.ts';
import { chooseCalling } from '../../src/server/groups/service.ts';
import { forMe, readAll, readItem, welcomed } from '../../src/server/inbox/service.ts';
import { openPost } from '../../src/server/posts/opening.ts';
import { decidePost } from '../../src/server/posts/moderating.ts';
import { reportPost, letReportStand } from '../../src/server/posts/reporting.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { hoursThatWork, toldInMonth } from '../../src/server/told/service.ts';
import { comment, setCommentSettled } from '../../src/server/comments/service.ts';
import { openLink } from '../../src/server/links/service.ts';
import { signLink } from '../../src/server/links/signed.ts';
import { search } from '../../src/server/search/service.ts';
import { changeState, move, takeBack } from '../../src/server/sends/changing.ts';
import { comingOf, putBack, writeOne } from '../../src/server/sends/coming.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { forecast } from '../../src/server/sends/forecast.ts';
import { occurrenceById } from '../../src/server/sends/occurrenceStore.ts';
import { runSheet } from '../../src/server/sends/runSheet.ts';
import { reinstate, withdraw } from '../../src/server/sends/withdrawing.ts';
import { keepFile } from '../../src/server/uploads/service.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  countOf,
  followAll,
  freshDatabase,
  makeDue,
  plan,
  SECRET,
  sendNow,
  stateOf,
  toGroups,
} from './world.ts';

const DAY_MS = 86_400_000;
let db: Database;
let people: number[];
let group: number;
let keys = 0;
const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });
const session: Session = { actor: coordinator, name: 'Maud', zone: 'Europe/London', owns: false };
const status = (work: Promise<unknown>): Promise<number> =>
  work.then(
    () => 200,
    (error: unknown) => (error as { status?: number }).status ?? 500,
  );

beforeAll(async () => {
  ({ db } = await freshDatabase('putting_right'));
  people = [...(await addPeople(db, 12, 1)), ...(await addPeople(db, 6, 2))];
  group = await addGroup(db, 'The ten', people.slice(0, 10));
});
afterAll(() => db.destroy());

async function begin(part: Partial<Plan>): Promise<number> {
  const id = await insertAnnouncement(db, coordinator.id, content(), plan(part), 'draft');
  return (await confirmSend(db, coordinator, id, { revision: 1 }, `right-key-${++keys}`)).occurrenceId;
}
const weekly = async (): Promise<Plan['timing']> => ({
  kind: 'recurring',
  start: wallAt((await databaseNow(db)) + 2 * DAY_MS, 'UTC').replace(/T.*/, 'T09:00'),
  zone: 'UTC',
  rule: WEEKLY,
  passed: 'not',
});
const gone = async (part: Partial<Plan>, text: Parameters<typeof content>[0] = {}): Promise<number> => {
  const id = await sendNow(db, part, text);
  await expandNow(db, id);
  return id;
};
async function board(groupId: number | null): Promise<number> {
  const id = await insertBoard(db, {
    name: `Board ${++keys}`,
    about: 'For the test.',
    groupId,
    ...PRESETS.talk.switches,
    ownerId: people[0]!,
  });
  await setModerator(db, id, people[1]!, true);
  return id;
}

describe('what recurs', () => {
  it('is skipped and put back, with its chases, until its hour has come', async () => {
    const first = await begin({
      audience: toGroups([group]),
      timing: await weekly(),
      ask: { ...acknowledgement(), within: 72, chase: USUAL_CHASE },
    });
    const chases = () => countOf(db, "FROM occurrences WHERE chases = ? AND state = 'scheduled'", [first]);
    const planned = await chases();
    expect(planned).toBeGreaterThan(0);
    await takeBack(db, coordinator, first);
    expect(await stateOf(db, first)).toBe('recalled');
    expect(await chases()).toBe(0);
    const skipped = (await comingOf(db, coordinator, first)).find((line) => line.occurrenceId === first);
    expect(skipped).toMatchObject({ skipped: true });
    await putBack(db, coordinator, first);
    expect(await stateOf(db, first)).toBe('scheduled');
    expect(await chases()).toBe(planned);
    expect(await countOf(db, "FROM buckets WHERE occurrence_id = ? AND state = 'planned'", [first])).toBe(1);
    expect(await status(putBack(db, coordinator, first))).toBe(409);
    await takeBack(db, coordinator, first);
    await db.raw('UPDATE occurrences SET due_at = NOW(3) - INTERVAL 1 MINUTE WHERE id = ?', [first]);
    expect(await status(putBack(db, coordinator, first))).toBe(409);
    expect(await status(putBack(db, member(people[0]!), first))).toBe(404);
  });

  it('is listed far ahead, and what is not written yet is written once to be skipped, and shown so on the run sheet', async () => {
    const first = await begin({ audience: toGroups([group]), timing: await weekly() });
    const lines = await comingOf(db, coordinator, first);
    expect(lines).toHaveLength(20);
    expect(lines.map((line) => line.dueMs)).toEqual(
      [...lines.map((line) => line.dueMs)].sort((a, b) => a - b),
    );
    const far = lines[15]!;
    expect(far.occurrenceId).toBeNull();
    const written = await Promise.all(
      [0, 1, 2].map(() => writeOne(db, coordinator, first, far.recursAt).catch(() => null)),
    );
    const ids = new Set(written.flatMap((each) => each?.occurrenceId ?? []));
    expect(ids.size).toBe(1);
    const [id = 0] = ids;
    const shown = async () =>
      (await runSheet(db, coordinator, far.dueMs - DAY_MS, far.dueMs + DAY_MS)).filter(
        (row) => row.dueMs === far.dueMs && row.title === 'Road closed',
      );
    const both = await shown();
    expect(both.filter((row) => row.occurrenceId === id)).toHaveLength(1);
    await takeBack(db, coordinator, id);
    expect((await shown()).find((row) => row.occurrenceId === id)?.state).toBe('recalled');
    expect((await comingOf(db, coordinator, first))[15]).toMatchObject({ occurrenceId: id, skipped: true });
    // What its rule does not give is not written.
    expect(await status(writeOne(db, coordinator, first, '2031-01-01T03:33'))).toBe(404);
    await changeState(db, coordinator, first, 'end');
    expect(await comingOf(db, coordinator, first)).toEqual([]);
    expect(await status(putBack(db, coordinator, id))).toBe(409);
  });

  it('while it is paused, what is put back or written is held', async () => {
    const first = await begin({ audience: toGroups([group]), timing: await weekly() });
    await takeBack(db, coordinator, first);
    await changeState(db, coordinator, first, 'pause');
    await putBack(db, coordinator, first);
    const far = (await comingOf(db, coordinator, first))[12]!;
    const { occurrenceId } = await writeOne(db, coordinator, first, far.recursAt);
    for (const id of [first, occurrenceId])
      expect(await countOf(db, "FROM buckets WHERE occurrence_id = ? AND state = 'held'", [id])).toBe(1);
  });
});

it('what is left of a send round the world moves, and what has gone stays', async () => {
  const nowMs = await databaseNow(db);
  const first = await begin({
    timing: {
      kind: 'local',
      wall: wallAt(nowMs + 2 * DAY_MS, 'UTC').replace(/T.*/, 'T09:00'),
      passed: 'not',
    },
  });
  await db.raw(
    "UPDATE buckets SET state = 'expanded' WHERE occurrence_id = ? AND zone = 'Pacific/Auckland'",
    [first],
  );
  await db.raw("UPDATE occurrences SET state = 'going out' WHERE id = ?", [first]);
  const before = await rows<{ zone: string; due: Date; sweeps: number }>(
    db,
    'SELECT zone, due_at AS due, sweeps FROM buckets WHERE occurrence_id = ? ORDER BY zone',
    [first],
  );
  const wall = wallAt(nowMs + 3 * DAY_MS, 'UTC').replace(/T.*/, 'T15:00');
  await move(db, coordinator, first, { wall, zone: 'Europe/London' });
  const now = await rows<{ zone: string; due: Date; sweeps: number }>(
    db,
    'SELECT zone, due_at AS due, sweeps FROM buckets WHERE occurrence_id = ? ORDER BY zone',
    [first],
  );
  const of = (list: typeof now, zone: string) => list.find((each) => each.zone === zone)!;
  expect(of(now, 'Pacific/Auckland').due).toEqual(of(before, 'Pacific/Auckland').due);
  expect(wallAt(of(now, 'Europe/London').due.getTime(), 'Europe/London')).toBe(wall);
  expect(now.filter((each) => each.sweeps === 1 && each.zone !== 'Pacific/Auckland')).toHaveLength(1);
  const occurrence = await occurrenceById(db, first);
  expect(occurrence?.endsMs).toBe(Math.max(...now.map((each) => each.due.getTime())));
  await db.raw("UPDATE buckets SET state = 'expanded' WHERE occurrence_id = ?", [first]);
  expect(await status(move(db, coordinator, first, { wall, zone: 'UTC' }))).toBe(409);
});

describe('what has gone and is withdrawn', () => {
  it('is a line in inboxes, asks nothing, stands on no board and is not found; and holds again where that was wrong', async () => {
    const on = await board(group);
    const id = await gone(
      { audience: toGroups([group]), boards: [on], ask: acknowledgement(), mail: true },
      {
        title: 'Quokka count',
        sections: [
          plainSection({
            type: 'doc',
            content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Count them on Thursday.' }] }],
          }),
        ],
      },
    );
    await followAll(db);
    const reader = member(people[2]!);
    const found = async () =>
      (await search(db, reader, 'UTC', searchSchema.parse({ q: 'quokka' }))).found.length;
    const waiting = async () =>
      (await forMe(db, reader, null)).unanswered.filter((item) => item.occurrenceId === id).length;
    const standing = async () => (await openBoard(db, reader, on)).posts.length;
    const waitingMail = () =>
      countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'mail' AND state = 'waiting'", [id]);
    expect([await found(), await waiting(), await standing()]).toEqual([1, 1, 1]);
    expect(await waitingMail()).toBeGreaterThan(0);
    const link = signLink(
      SECRET,
      { purpose: 'acknowledge', occurrenceId: id, personId: reader.id },
      await databaseNow(db),
    );
    expect(await openLink(db, SECRET, link, 'acknowledge')).toMatchObject({
      html: expect.stringContaining('Count them on Thursday') as string,
    });
    await answer(db, SECRET, people[3]!, id, {}, 'page');

    expect(await status(withdraw(db, reader, id, { note: 'The wrong day' }))).toBe(404);
    await withdraw(db, coordinator, id, { note: 'The wrong day' });
    await followAll(db);
    expect([await found(), await waiting(), await standing()]).toEqual([0, 0, 0]);
    expect(await waitingMail()).toBe(0);
    const read = await readItem(db, reader.id, id);
    expect(read).toMatchObject({
      html: '',
      button: null,
      asked: false,
      withdrawn: { note: 'The wrong day' },
    });
    const page = await openLink(db, SECRET, link, 'acknowledge');
    expect(page).toMatchObject({ html: '', withdrawn: { note: 'The wrong day' } });
    expect(await status(answer(db, SECRET, reader.id, id, {}, 'mail'))).toBe(409);
    expect(await status(withdraw(db, coordinator, id, { note: 'Again' }))).toBe(409);
    // It was closed without an outcome: nothing is posted of it.
    expect(await countOf(db, 'FROM asks WHERE occurrence_id = ? AND settled_at IS NOT NULL', [id])).toBe(1);

    await reinstate(db, coordinator, id);
    await followAll(db);
    expect([await found(), await waiting(), await standing()]).toEqual([1, 1, 1]);
    expect((await readItem(db, reader.id, id)).html).toContain('Count them on Thursday');
    await answer(db, SECRET, reader.id, id, {}, 'mail');
    expect(await status(reinstate(db, coordinator, id))).toBe(409);
  });

  it('is not what has not gone', async () => {
    const id = await begin({ audience: toGroups([group]), timing: await weekly() });
    expect(await status(withdraw(db, coordinator, id, { note: 'Not yet' }))).toBe(409);
  });
});

describe('one tap', () => {
  it('is taken back within minutes, and not later nor once it has closed', async () => {
    const id = await gone({ audience: toGroups([group]), ask: acknowledgement() });
    const [one = 0, other = 0] = people;
    const answered = () => countOf(db, 'FROM roll WHERE occurrence_id = ? AND answered_at IS NOT NULL', [id]);
    await answer(db, SECRET, one, id, {}, 'mail');
    await answer(db, SECRET, other, id, {}, 'mail');
    await takeBackAcknowledgement(db, one, id);
    await takeBackAcknowledgement(db, one, id);
    expect(await answered()).toBe(1);
    await db.raw('UPDATE roll SET answered_at = NOW(3) - INTERVAL 11 MINUTE WHERE person_id = ?', [other]);
    expect(await status(takeBackAcknowledgement(db, other, id))).toBe(409);
    expect(await status(takeBackAcknowledgement(db, people[17]!, id))).toBe(404);
    expect(await answered()).toBe(1);
  });

  it('a chase carries what it follows up, and small files travel in the mail', async () => {
    const small = await keepFile(db, coordinator, Buffer.from('Gate\t14\n'), 'gates.txt');
    const large = await keepFile(db, coordinator, Buffer.alloc(250_000, 'x'), 'all.txt');
    const text = content();
    const id = await gone(
      {
        audience: toGroups([group]),
        ask: { ...acknowledgement(), within: 60, chase: USUAL_CHASE },
      },
      { sections: [{ ...text.sections[0]!, files: [small, large] }] },
    );
    const chase = (
      await rows<{ id: number }>(db, 'SELECT id FROM occurrences WHERE chases = ? LIMIT 1', [id])
    )[0]!;
    const reader = {
      name: 'Ann',
      greeting: '',
      station: null,
      occupation: '',
      zone: 'UTC',
      atMs: 0,
      eventMs: null,
    };
    for (const occurrenceId of [id, chase.id]) {
      const laid = await layOut(db, 'http://bell.test', (await occurrenceById(db, occurrenceId))!);
      const { html, text: words } = laid.letter({
        why: '',
        readUrl: '',
        answerUrl: '',
        unsubscribeUrl: '',
        passOnUrl: '',
        comingUrl: 'https://x.example/m/coming/c',
        deadline: '',
        reader,
      });
      expect(html).toContain('Take the ridge road.');
      expect(words).toContain('Take the ridge road.');
      expect(html).toContain('all.txt');
      expect(laid.files.map((file) => file.name)).toEqual(['gates.txt']);
    }
  });
});

describe('on boards', () => {
  it('read is what was on the screen: the others stay unread, for this reader alone', async () => {
    const on = await board(null);
    const ids: number[] = [];
    for (let i = 0; i < 3; i++)
      ids.push(await gone({ audience: null, boards: [on] }, { title: `Notice ${i}` }));
    const reader = member(people[4]!);
    const { posts } = await openBoard(db, reader, on);
    expect(posts.filter((post) => post.unread)).toHaveLength(3);
    await readOnBoard(db, reader, on, { posts: [posts[1]!.id, 999_999] });
    const unread = await openBoard(db, reader, on, { only: 'unread' });
    expect(unread.unread).toBe(2);
    expect(unread.posts.map((post) => post.id)).toEqual([posts[0]!.id, posts[2]!.id]);
    expect((await openBoard(db, member(people[5]!), on)).unread).toBe(3);
    // A post of a board they may not see is not noted by naming it on another.
    const closed = await board(group);
    await gone({ audience: null, boards: [closed] });
    const stranger = member(people[17]!);
    const [hidden] = (await openBoard(db, coordinator, closed)).posts;
    await readOnBoard(db, stranger, on, { posts: [hidden!.id] });
    expect(await countOf(db, 'FROM post_reads WHERE post_id = ?', [hidden!.id])).toBe(0);
    expect(await status(readOnBoard(db, stranger, closed, { posts: [hidden!.id] }))).toBe(404);
    // The coordinator sees how many had it on their screen.
    const { figures } = await after(db, coordinator, ids[1]!);
    expect(figures).toMatchObject({ reached: 0, readOnBoards: 1, onBoards: people.length + 1 });
    await readAll(db, reader);
    expect((await openBoard(db, reader, on)).unread).toBe(0);
    expect((await forMe(db, reader, null)).lines.filter((line) => !line.read)).toEqual([]);
  });

  it('a board is looked at from a day on back, on the reader’s own clock', async () => {
    const on = await board(null);
    const [early, late] = [
      await gone({ audience: null, boards: [on] }),
      await gone({ audience: null, boards: [on] }),
    ];
    await db.raw("UPDATE posts SET posted_at = '2026-03-01 23:30:00' WHERE occurrence_id = ?", [early]);
    await db.raw("UPDATE posts SET posted_at = '2026-03-02 00:30:00' WHERE occurrence_id = ?", [late]);
    const until = async (zone: string) =>
      (await openBoard(db, coordinator, on, { until: '2026-03-01' }, zone)).posts.map(
        (post) => post.occurrenceId,
      );
    expect(await until('UTC')).toEqual([early]);
    expect(await until('America/New_York')).toEqual([late, early]);
    expect(await until('Asia/Tokyo')).toEqual([]);
  });

  it('its members are counted and found by name, and those who look after it are told apart', async () => {
    const on = await board(group);
    await setModerator(db, on, people[15]!, true);
    const all = await membersOfBoard(db, member(people[2]!), on, '', null);
    expect(all.count).toBe(11);
    expect(all.members.filter((each) => each.moderates).map((each) => each.id)).toEqual([
      people[1],
      people[15],
    ]);
    expect(all.members.find((each) => each.id === people[15])?.belongs).toBe(false);
    const name = all.members[3]!.name.split(' ');
    const found = await membersOfBoard(db, coordinator, on, name.reverse().join(' '), null);
    expect(found.members.map((each) => each.id)).toEqual([all.members[3]!.id]);
    expect(await status(membersOfBoard(db, member(people[16]!), on, '', null))).toBe(404);
  });

  it('groups are offered to be called on with how many that calls there, to those who may send to them', async () => {
    const on = await board(group);
    const overlap = await addGroup(db, 'Ridge crew', [people[8]!, people[9]!, people[10]!]);
    const offered = await callableOn(db, coordinator, on, 'ridge');
    expect(offered).toEqual([{ kind: 'group', id: overlap, name: 'Ridge crew', detail: 'calls 2' }]);
    const post = (who: Actor): Promise<unknown> =>
      writePost(
        db,
        who,
        on,
        {
          title: 'A hand',
          document: {
            type: 'doc',
            content: [
              {
                type: 'paragraph',
                content: [{ type: 'mention', attrs: { kind: 'group', id: overlap, label: 'Ridge crew' } }],
              },
            ],
          },
          image: null,
          gallery: [],
          files: [],
        },
        `calling-${who.id}-${Math.random()}`,
      );
    expect(await callableOn(db, member(people[2]!), on, 'ridge')).toEqual([]);
    expect(await status(post(member(people[2]!)))).toBe(403);
    // One that is there to be called on is for all who are on the board with it, and tells those in it who see the board.
    await expect(chooseCalling(db, member(people[2]!), overlap, true)).rejects.toMatchObject({ status: 403 });
    await chooseCalling(db, coordinator, overlap, true);
    expect(await groupsCallableOn(db, member(people[2]!), on)).toEqual([
      { id: overlap, name: 'Ridge crew', people: 2 },
    ]);
    expect(await status(groupsCallableOn(db, member(people[16]!), on))).toBe(404);
    await post(member(people[2]!));
    await followAll(db);
    const told = await rows<{ id: number }>(
      db,
      "SELECT DISTINCT person_id AS id FROM notices WHERE title LIKE '%A hand%' ORDER BY 1",
    );
    expect(told.map((row) => row.id)).toEqual([people[8], people[9]]);
    await chooseCalling(db, coordinator, overlap, false);
    expect(await groupsCallableOn(db, member(people[2]!), on)).toEqual([]);
    await db('people')
      .whereIn('id', [people[6]!, people[7]!])
      .update({ name: 'Ann Marsh', occupation: 'driver' });
    const namesakes = await callableOn(db, coordinator, on, 'marsh ann');
    expect(new Set(namesakes.map((each) => each.detail)).size).toBe(2);
  });
});

it('a board’s readers are counted before a post goes to it alone, and a group that would not get it is told of', async () => {
  const on = await board(group);
  const outside = await addGroup(db, 'Outsiders', [people[0]!, people[16]!, people[17]!]);
  const seen = await forecast(db, coordinator, plan({ audience: null, boards: [on] }), {
    importance: 'routine',
    event: null,
    fields: [],
    mentions: [],
    sections: 1,
  });
  expect(seen).toMatchObject({ people: 0, onBoards: 10, boards: [{ id: on, readers: 10 }] });
  const called = await forecast(db, coordinator, plan({ audience: toGroups([group]) }), {
    importance: 'routine',
    event: null,
    fields: [],
    mentions: [{ kind: 'group', id: outside, label: 'Outsiders' }],
    sections: 1,
  });
  expect(called.warnings.map((each) => each.detail)).toContain(
    'Outsiders is called on, and 2 people of it would not get it.',
  );
});

it('who chose what is told of a named poll to whoever asked, and of one without names to nobody', async () => {
  const poll = (anonymous: boolean) => ({
    deadline: null,
    within: null,
    chase: null,
    joiners: false,
    kind: 'poll' as const,
    poll: {
      ...EMPTY_POLL,
      question: 'Tea?',
      anonymous,
      options: ['Yes', 'No'].map((label) => ({ label, at: null })),
    },
  });
  const named = await gone({ audience: toGroups([group]), ask: poll(false) });
  await answer(db, SECRET, people[2]!, named, { choices: [2] }, 'page');
  const page = await ballotsPage(db, session, named, null);
  expect(page.ballots).toEqual([expect.objectContaining({ personId: people[2], words: 'No' })]);
  expect((await askBox(db, SECRET, { id: people[2]!, zone: 'UTC' }, named)).poll?.rules).toContain(
    'With names: whoever asked sees who chose what.',
  );
  const secret = await gone({ audience: toGroups([group]), ask: poll(true) });
  await answer(db, SECRET, people[2]!, secret, { choices: [2] }, 'page');
  expect(await status(ballotsPage(db, session, secret, null))).toBe(409);
  expect(await status(ballotsPage(db, { ...session, actor: member(people[2]!) }, named, null))).toBe(404);
});

it('late is what should have gone and has not', () => {
  const row = {
    state: 'scheduled',
    dueMs: 0,
    recurs: null,
    projectedFrom: null,
    automationId: null,
  } as const;
  expect(isOverdue(row, 61_000)).toBe(true);
  expect(isOverdue(row, 59_000)).toBe(false);
  expect(isOverdue({ ...row, recurs: { state: 'paused', at: '', moved: false } }, 61_000)).toBe(false);
  expect(isOverdue({ ...row, state: 'sent' }, 61_000)).toBe(false);
  expect(isOverdue({ ...row, state: 'failed' }, 0)).toBe(true);
});

describe('what was told', () => {
  it('a month adds up whom it reached, and the hour map rests on twenty people or says nothing', async () => {
    const nowMs = await databaseNow(db);
    const month = new Date(nowMs).toISOString().slice(0, 7);
    const utc: Session = { ...session, zone: 'UTC' };
    const before = await toldInMonth(db, utc, month);
    const id = await gone({ audience: toGroups([group]), ask: acknowledgement() }, { byline: 'The desk' });
    await answer(db, SECRET, people[2]!, id, {}, 'page');
    await readItem(db, people[2]!, id);
    await readItem(db, people[3]!, id);
    const now = await toldInMonth(db, utc, month);
    expect(now.all.announcements - before.all.announcements).toBe(1);
    expect(now.all.reached - before.all.reached).toBe(10);
    expect(now.all.read - before.all.read).toBe(2);
    expect(now.all.answered - before.all.answered).toBe(1);
    expect(now.people[0]!.n).toBeGreaterThan(0);
    expect((await toldInMonth(db, utc, '2031-01')).all.announcements).toBe(0);
    expect(await status(toldInMonth(db, { ...utc, actor: member(people[0]!) }, month))).toBe(403);

    // Two hours in which somebody had something: one with few, one with all of twenty.
    const many = await addPeople(db, 24, 1);
    const all = await addGroup(db, 'Many', many);
    const [soon, late] = [
      await gone({ audience: toGroups([all]) }),
      await gone({ audience: toGroups([all]) }),
    ];
    const at = new Date(nowMs - 3 * DAY_MS).toISOString().slice(0, 10);
    for (const [occurrence, hour] of [
      [soon, '08'],
      [late, '15'],
    ] as const) {
      await db.raw("UPDATE occurrences SET state = 'sent', due_at = ? WHERE id = ?", [
        `${at} ${hour}:00:00`,
        occurrence,
      ]);
      await db.raw("UPDATE deliveries SET went_at = ? WHERE occurrence_id = ? AND method = 'inbox'", [
        `${at} ${hour}:00:00`,
        occurrence,
      ]);
    }
    await db.raw(
      "UPDATE deliveries SET read_at = went_at + INTERVAL 10 MINUTE WHERE occurrence_id = ? AND method = 'inbox'",
      [soon],
    );
    const map = await hoursThatWork(db, session);
    const north = map.lines.find((line) => line.name === 'North')!;
    const hours = north.cells.map((cell) => [cell.people, cell.n, cell.soon]);
    expect(hours).toContainEqual([24, 24, 24]);
    expect(hours).toContainEqual([24, 24, 0]);
    expect(map.lines.every((line) => line.cells.every((cell) => cell.people >= 20))).toBe(true);
    expect(await status(hoursThatWork(db, { ...session, actor: member(people[0]!) }))).toBe(403);
  });
});

describe('what is reported', () => {
  it('is decided by others than who wrote it, who does not learn by whom; and who reported learns what came of it', async () => {
    const on = await board(group);
    const second = people[3]!;
    await setModerator(db, on, second, true);
    const moderator = (id: number): Actor => ({ ...member(id), moderates: new Set([on]) });
    const { id } = await writePost(
      db,
      moderator(people[1]!),
      on,
      { title: 'Rude', document: content().sections[0]!.document, image: null, gallery: [], files: [] },
      'report-post-key',
    );
    await followAll(db);
    await reportPost(db, member(people[4]!), id, 'This is rude');
    await followAll(db);
    const told = async (person: number) =>
      (
        await rows<{ title: string }>(db, 'SELECT title FROM notices WHERE person_id = ? ORDER BY id', [
          person,
        ])
      ).map((each) => each.title);
    expect(await told(second)).toContain('Reported: Rude');
    expect(await told(people[1]!)).not.toContain('Reported: Rude');
    expect((await openBoard(db, moderator(people[1]!), on)).reports).toEqual([]);
    const [report] = (await openBoard(db, moderator(second), on)).reports;
    expect(await status(letReportStand(db, moderator(people[1]!), report!.id))).toBe(403);
    await letReportStand(db, moderator(second), report!.id);
    await followAll(db);
    expect(await told(people[4]!)).toContain('What you reported: Rude');
    // Hidden later, it is told once more; who wrote it is told of the hiding and of no report.
    await decidePost(db, moderator(second), id, { decision: 'hide', note: 'Not here' });
    await followAll(db);
    expect((await told(people[4]!)).filter((title) => title === 'What you reported: Rude')).toHaveLength(2);
    expect((await told(people[1]!)).some((title) => /reported/i.test(title))).toBe(false);
  });
});

it('whoever is here for the first time is shown what is here, until they say that they have read it', async () => {
  const [fresh = 0] = await addPeople(db, 1, 1);
  await board(null);
  expect((await forMe(db, member(fresh), null)).welcome?.boards.length).toBeGreaterThan(0);
  await welcomed(db, fresh);
  expect((await forMe(db, member(fresh), null)).welcome).toBeNull();
});

it('whoever is called in a comment on a draft is told once, and of nothing that is settled', async () => {
  const [editor = 0, bystander = 0] = await addPeople(db, 2, 1);
  await db('people').where({ id: editor }).update({ role: 'editor' });
  const draft = await insertAnnouncement(
    db,
    coordinator.id,
    content({ title: 'Half a text' }),
    plan({}),
    'draft',
  );
  const [made] = await comment(db, coordinator, draft, {
    text: 'Does the second line hold?',
    mentions: [editor, bystander],
  });
  await followAll(db);
  await comment(db, coordinator, draft, { text: 'And the third', mentions: [] });
  await followAll(db);
  const told = (id: number) => countOf(db, "FROM notices WHERE person_id = ? AND kind = 'mention'", [id]);
  expect([await told(editor), await told(bystander)]).toEqual([1, 0]);
  await setCommentSettled(db, coordinator, draft, made!.id, true);
  await followAll(db);
  expect(await told(editor)).toBe(1);
});

it('a part of what is longer than a board takes leads to its other parts', async () => {
  const on = await board(group);
  await db('boards').where({ id: on }).update({ section_limit: 1 });
  const [section] = content().sections;
  const id = await gone(
    { audience: null, boards: [on] },
    { sections: [section!, { ...section!, id: 'second' }] },
  );
  const posts = await rows<{ id: number; part: number }>(
    db,
    'SELECT id, part FROM posts WHERE occurrence_id = ? ORDER BY part',
    [id],
  );
  expect(posts).toHaveLength(2);
  const [first, second] = posts;
  expect((await openPost(db, member(people[2]!), first!.id)).parts).toEqual([{ id: second!.id, number: 2 }]);
  expect((await openPost(db, member(people[2]!), second!.id)).parts).toEqual([{ id: first!.id, number: 1 }]);
});

it('what is done to a board is kept as from what to what', async () => {
  const on = await board(group);
  await changeBoardSettings(db, coordinator, on, { replying: 'nobody', warns: true });
  await changeBoardSettings(db, coordinator, on, { name: 'Renamed for this' });
  const { deeds } = await boardSettings(db, coordinator, on);
  expect(deeds[0]?.changes).toEqual([
    expect.stringMatching(/^name: from “Board \d+” to “Renamed for this”$/),
  ]);
  expect(deeds[1]?.changes).toEqual([
    'Who replies: from everyone here to nobody',
    'Writers are told how many a post reaches before it goes up: from no to yes',
  ]);
});

it('a reader for whom the hour had passed is told so, and nobody else', async () => {
  const nowMs = await databaseNow(db);
  const id = await begin({
    timing: {
      kind: 'local',
      wall: wallAt(nowMs + 2 * DAY_MS, 'UTC').replace(/T.*/, 'T09:00'),
      passed: 'at once',
    },
  });
  await db.raw("UPDATE buckets SET fate = 'at once' WHERE occurrence_id = ? AND zone = 'Pacific/Auckland'", [
    id,
  ]);
  await makeDue(db, id);
  await expandNow(db, id);
  const why = async (person: number) => (await readItem(db, person, id)).why;
  expect(await why(people[13]!)).toContain('The hour it was meant for had passed where you are');
  expect(await why(people[2]!)).not.toContain('had passed');
});
