import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Actor } from '../../src/core/rights/decide.ts';
import { acknowledge, listRoll, openRoll } from '../../src/server/asks/service.ts';
import { rollCsv } from '../../src/server/asks/csv.ts';
import { listBoards, openBoard } from '../../src/server/boards/service.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { pin } from '../../src/server/posts/pinning.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { followLink, openLink, stopMail } from '../../src/server/links/service.ts';
import { readLink, signLink } from '../../src/server/links/signed.ts';
import { forMe } from '../../src/server/inbox/service.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  countOf,
  freshDatabase,
  mailHouse,
  reaches,
  SECRET,
  sendNow,
  startEngine,
  toGroups,
} from './world.ts';

let db: Database;
let people: number[];
let occurrence: number;
const NOW = Date.now();
const member = (id: number, moderates: number[] = []): Actor => ({
  id,
  role: 'member',
  moderates: new Set(moderates),
  mayReach: new Set(),
});

beforeAll(async () => {
  ({ db } = await freshDatabase('answers'));
  people = [...(await addPeople(db, 20, 1)), ...(await addPeople(db, 10, 2))];
  await db('people').where({ id: people[0]! }).update({ name: '=cmd|"x"!A1' });
  const some = await addGroup(db, 'Some', people.slice(0, 25));
  const mail = await mailHouse();
  const engine = await startEngine(db, mail.url);
  occurrence = await sendNow(db, {
    audience: toGroups([some]),
    ask: acknowledgement(),
  });
  await reaches(db, occurrence, 'sent');
  await engine.stop();
  await mail.stop();
});
afterAll(() => db.destroy());

describe('an acknowledgement', () => {
  it('counts once, however it comes and however often', async () => {
    const answers = await Promise.all(
      Array.from({ length: 10 }, (_, i) =>
        acknowledge(db, people[1]!, occurrence, i % 2 === 0 ? 'mail' : 'page'),
      ),
    );
    expect(new Set(answers).size).toBe(1);
    await Promise.all(people.slice(2, 12).map((id) => acknowledge(db, id, occurrence, 'page')));
    expect((await openRoll(db, coordinator, occurrence)).tally).toEqual({ asked: 25, answered: 11 });
    expect(
      await countOf(db, "FROM events WHERE kind = 'ask.answered' AND subject = ?", [
        `occurrence:${occurrence}`,
      ]),
    ).toBe(11);
  });

  it('is not taken from somebody who was not asked', async () => {
    await expect(acknowledge(db, people[28]!, occurrence, 'page')).rejects.toMatchObject({ status: 404 });
  });

  it('moves an announcement out of what needs an answer', async () => {
    expect((await forMe(db, member(people[13]!), null)).unanswered).toHaveLength(1);
    await acknowledge(db, people[13]!, occurrence, 'page');
    const after = await forMe(db, member(people[13]!), null);
    expect(after.unanswered).toEqual([]);
    expect(after.lines[0]).toMatchObject({ asked: true });
    expect(after.lines[0]!.answeredMs).not.toBeNull();
  });
});

describe('the roll', () => {
  it('tells who has and who has not, as a whole and by group', async () => {
    const roll = await openRoll(db, coordinator, occurrence);
    expect(roll.stations.map((row) => [row.name, row.asked]).sort()).toEqual([
      ['North', 20],
      ['South', 5],
    ]);
    expect(roll.groups).toMatchObject([{ name: 'Some', asked: 25 }]);
    const waiting = await listRoll(db, coordinator, occurrence, { part: 'waiting', search: '', after: null });
    expect(waiting.people).toHaveLength(roll.tally.asked - roll.tally.answered);
    const found = await listRoll(db, coordinator, occurrence, { part: 'all', search: 'south', after: null });
    expect(found.people).toHaveLength(5);
    await expect(openRoll(db, { ...coordinator, id: 9, role: 'editor' }, occurrence)).rejects.toMatchObject({
      status: 404,
    });
  });

  it('comes as CSV, whole, with nothing a spreadsheet would run', async () => {
    const csv = await new Response(
      rollCsv(db, { actor: coordinator, name: 'Maud', zone: 'UTC', owns: false }, occurrence),
    ).text();
    const lines = csv.trim().split('\r\n');
    expect(lines).toHaveLength(26);
    expect(csv).toContain('"\'=cmd|""x""!A1"');
    expect(lines.filter((line) => line.includes(',yes,2'))).toHaveLength(12);
  });
});

describe('a link in a mail', () => {
  const claim = (personId: number) => ({
    purpose: 'acknowledge' as const,
    occurrenceId: occurrence,
    personId,
  });

  it('only shows when it is opened, and acknowledges when it is pressed', async () => {
    const token = signLink(SECRET, claim(people[15]!), NOW);
    const opened = await openLink(db, SECRET, token, 'acknowledge');
    expect(opened).toMatchObject({ state: 'good', title: 'Road closed', answeredMs: null });
    if (opened.state === 'good') await followLink(db, opened.claim);
    expect(await openLink(db, SECRET, token, 'acknowledge')).not.toMatchObject({ answeredMs: null });
    expect(await countOf(db, "FROM roll WHERE person_id = ? AND via = 'mail'", [people[15]!])).toBe(1);
  });

  it('is refused when altered, too old, for another purpose, or for somebody not asked', async () => {
    const token = signLink(SECRET, claim(people[16]!), NOW);
    const other = token.replace(`-${people[16]!.toString(36)}-`, `-${people[17]!.toString(36)}-`);
    expect(readLink(SECRET, other, 'acknowledge', NOW).state).toBe('altered');
    expect(readLink('another secret altogether, long enough', token, 'acknowledge', NOW).state).toBe(
      'altered',
    );
    expect(readLink(SECRET, token, 'unsubscribe', NOW).state).toBe('altered');
    expect(readLink(SECRET, `${token}A`, 'acknowledge', NOW).state).toBe('altered');
    expect(readLink(SECRET, token, 'acknowledge', NOW + 91 * 86_400_000).state).toBe('expired');
    const unasked = signLink(SECRET, claim(people[28]!), NOW);
    expect((await openLink(db, SECRET, unasked, 'acknowledge')).state).toBe('gone');
  });

  it('stops mail that may be stopped, and lets it come again', async () => {
    await followLink(db, { ...claim(people[18]!), purpose: 'unsubscribe' });
    expect(await countOf(db, 'FROM people WHERE id = ? AND mail_stopped_at IS NOT NULL', [people[18]!])).toBe(
      1,
    );
    await stopMail(db, people[18]!, false);
    expect(await countOf(db, 'FROM people WHERE id = ? AND mail_stopped_at IS NULL', [people[18]!])).toBe(1);
  });
});

describe('a board', () => {
  const text = {
    title: 'Kettle',
    image: null,
    gallery: [],
    files: [],
    document: {
      type: 'doc' as const,
      content: [{ type: 'paragraph' as const, content: [{ type: 'text' as const, text: 'Mended.' }] }],
    },
  };

  it('is seen, posted to and pinned on by those who may, and told apart for the rest', async () => {
    const south = await addGroup(db, 'South people', { kind: 'station', id: 2 });
    const open = await insertBoard(db, {
      name: 'South',
      about: 'South.',
      groupId: south,
      posting: 'members',
    });
    const readOnly = await insertBoard(db, {
      name: 'Rules',
      about: 'Rules.',
      groupId: null,
      posting: 'moderators',
    });
    await db('board_moderators').insert({ board_id: readOnly, person_id: people[2]! });
    const [north, southern, moderator] = [
      member(people[0]!),
      member(people[22]!),
      member(people[2]!, [readOnly]),
    ];

    expect((await listBoards(db, north)).map((board) => board.name)).toEqual(['Rules']);
    await expect(openBoard(db, north, open)).rejects.toMatchObject({ status: 404 });
    await expect(writePost(db, north, open, text, 'north-key')).rejects.toMatchObject({ status: 404 });
    await expect(writePost(db, southern, readOnly, text, 'south-key')).rejects.toMatchObject({
      status: 403,
      message: 'Only those who moderate Rules post here: Person 00004.',
    });
    const [a, b] = await Promise.all([
      writePost(db, southern, open, text, 'twice-key'),
      writePost(db, southern, open, text, 'twice-key'),
    ]);
    expect(a).toEqual(b);
    expect((await openBoard(db, southern, open)).posts).toHaveLength(1);

    const rule = await writePost(db, moderator, readOnly, text, 'rule-key');
    const pinned = { pinned: true, until: null, replaces: null };
    await expect(pin(db, southern, rule.id, pinned, 'UTC')).rejects.toMatchObject({ status: 403 });
    await expect(pin(db, north, a.id, pinned, 'UTC')).rejects.toMatchObject({ status: 404 });
    await pin(db, moderator, rule.id, pinned, 'UTC');
    expect((await openBoard(db, north, readOnly)).pinned.map((post) => post.id)).toEqual([rule.id]);
    await pin(db, moderator, rule.id, { ...pinned, pinned: false }, 'UTC');
    expect((await openBoard(db, north, readOnly)).pinned).toEqual([]);
    expect(
      await countOf(
        db,
        "FROM audit WHERE subject = 'board' AND action IN ('pin', 'unpin') AND JSON_VALUE(detail, '$.post') = ?",
        [rule.id],
      ),
    ).toBe(2);
  });

  it('is read page by page without missing or repeating a post', async () => {
    const board = await insertBoard(db, { name: 'Long', about: 'Long.', groupId: null, posting: 'members' });
    for (let i = 0; i < 45; i++) await writePost(db, member(people[3]!), board, text, `long-key-${i}`);
    await db('posts')
      .where({ board_id: board })
      .update({ posted_at: new Date(NOW) });
    const seen: number[] = [];
    let next: { postedMs: number; id: number } | null = null;
    do {
      const page = await openBoard(db, coordinator, board, next ?? {});
      seen.push(...page.posts.map((post) => post.id));
      next = page.next;
    } while (next);
    expect(seen).toHaveLength(45);
    expect(new Set(seen).size).toBe(45);
  });
});
