import { randomBytes } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { KEPT, KEPT_KINDS, type KeptKind } from '../../src/core/retention/kinds.ts';
import { after } from '../../src/server/after/service.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { ballotsCsv, ballotsPage, openResults } from '../../src/server/asks/results.ts';
import { checkInPage } from '../../src/server/asks/check-in/checkIns.ts';
import { listRoll, openRoll } from '../../src/server/asks/service.ts';
import { tallies } from '../../src/server/asks/store.ts';
import type { OpenSession } from '../../src/server/accounts/service.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import type { NewPost } from '../../src/core/boards/board.ts';
import type { Doc } from '../../src/core/content/document.ts';
import { insertHandovers } from '../../src/server/gateways/outStore.ts';
import { forMe } from '../../src/server/inbox/service.ts';
import { pin } from '../../src/server/posts/pinning.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { unreadOn } from '../../src/server/posts/readStore.ts';
import { writeReply } from '../../src/server/replies/service.ts';
import { forgetOld } from '../../src/server/retention/forgetting.ts';
import { chooseRetention, foresee, retention } from '../../src/server/retention/service.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { deliveryCounts } from '../../src/server/sends/occurrenceStore.ts';
import { insertUpload } from '../../src/server/uploads/store.ts';
import { toldBetween } from '../../src/server/told/store.ts';
import { PUT } from '../../src/pages/api/retention/index.ts';
import { GET } from '../../src/pages/api/retention/foreseen.ts';
import { callRoute, demoHouse, signedIn } from './routes.ts';
import { content, coordinator, countOf, followAll, plan, whereIs } from './world.ts';

const paragraph = (text: string): Doc => ({
  type: 'doc',
  content: [{ type: 'paragraph', content: [{ type: 'text', text }] }],
});

let db: Database;
let maud: OpenSession;
const DAYS = 30;
/** As short as each can be kept, or a month. */
const daysOf = (kind: KeptKind): number => Math.max(DAYS, KEPT[kind].leastDays);
/** The tables of each kind, of which something must go. */
const TABLE: Record<KeptKind, string> = {
  deliveries: 'deliveries',
  answers: 'roll',
  posts: 'posts',
  drafts: 'announcements',
  runs: 'automation_sayings',
  calls: 'hook_calls',
  handovers: 'hook_deliveries',
  audit: 'audit',
};

const fail = (error: unknown): never => {
  throw error;
};
async function forgetAll(): Promise<void> {
  // As two engines do, at once.
  while ((await Promise.all([forgetOld(db, fail), forgetOld(db, fail)])).some(Boolean));
}
/** As if a day had gone by since everything was chosen. */
const aDayLater = (): Promise<unknown> => db.raw('UPDATE retention SET from_at = from_at - INTERVAL 25 HOUR');

beforeAll(async () => {
  db = await demoHouse('retention');
  maud = await signedIn(db, 'maud');
  // All that has happened is a hundred days older than it is, so that a month from now is a part of it.
  for (const [table, column] of [
    ['occurrences', 'ends_at'],
    ['asks', 'closed_at'],
    ['posts', 'posted_at'],
    ['replies', 'written_at'],
    ['automation_runs', 'ended_at'],
  ])
    await db.raw(
      `UPDATE \`${table!}\` SET \`${column!}\` = \`${column!}\` - INTERVAL 100 DAY WHERE \`${column!}\` < NOW(3) - INTERVAL 5 DAY`,
    );
  await db.raw(
    "UPDATE asks SET closed_at = NOW(3) - INTERVAL 100 DAY WHERE kind IN ('check-in', 'poll') AND settled_at IS NOT NULL",
  );
  const [out] = await rows<{ id: number }>(db, 'SELECT id FROM hooks_out LIMIT 1');
  await insertHandovers(
    db,
    Array.from({ length: 10 }, (_, i) => ({
      hookId: out!.id,
      eventKey: `old ${i}`,
      kind: 'post.up',
      subject: 'post:1',
      body: '{}',
    })),
  );
  await db.raw(
    "UPDATE hook_deliveries SET state = 'delivered', ended_at = NOW(3) - INTERVAL IF(id % 2 = 0, 50, 0) DAY",
  );
  await db.raw(
    "UPDATE announcements SET saved_at = saved_at - INTERVAL 100 DAY WHERE state = 'draft' LIMIT 3",
  );
  await db.raw('UPDATE comments SET written_at = written_at - INTERVAL 100 DAY');
  await db.raw('UPDATE hook_calls SET at = at - INTERVAL 100 DAY WHERE id % 2 = 0');
  await db.raw('UPDATE audit SET at = at - INTERVAL 500 DAY WHERE id % 2 = 0');
});
afterAll(() => db.destroy());

const keysOf = async (pollId: number): Promise<string[]> =>
  (
    await rows<{ k: string }>(db, 'SELECT HEX(ballot_key) AS k FROM ballots WHERE occurrence_id = ?', [
      pollId,
    ])
  ).map((row) => row.k);

/** All that is counted of what went out, as the desk shows it. */
async function figures(): Promise<unknown> {
  const ids = (
    await rows<{ id: number }>(db, "SELECT id FROM occurrences WHERE state <> 'scheduled' ORDER BY id")
  ).map((row) => row.id);
  const counts = await deliveryCounts(db, ids);
  const asked = await tallies(db, ids);
  const polls = (
    await rows<{ id: number }>(db, "SELECT occurrence_id AS id FROM asks WHERE kind = 'poll' ORDER BY 1")
  ).map((row) => row.id);
  const byState = (a: { method: string; state: string }, b: { method: string; state: string }): number =>
    `${a.method}${a.state}` < `${b.method}${b.state}` ? -1 : 1;
  return {
    counts: ids.map((id) => [id, [...(counts.get(id) ?? [])].sort(byState)]),
    asked: ids.map((id) => [id, asked.get(id)]),
    figures: await Promise.all(ids.map(async (id) => (await after(db, coordinator, id)).figures)),
    polls: await Promise.all(
      polls.map(async (id) => {
        const { poll } = await openResults(db, maud, id);
        return [id, poll?.outcome, poll?.words];
      }),
    ),
    told: await toldBetween(db, 0, Date.now() + 1e9, 1000),
  };
}

describe('what is kept for so long', () => {
  it('is as usual until somebody chooses, waits a day before anything goes, and can be taken back', async () => {
    const usual = await retention(db, coordinator);
    expect(usual.map(({ kind, days }) => [kind, days])).toEqual([
      ['deliveries', null],
      ['answers', null],
      ['posts', null],
      ['drafts', null],
      ['runs', null],
      ['calls', 60],
      ['handovers', 30],
      ['audit', null],
    ]);
    for (const kind of ['calls', 'handovers'] as const)
      await chooseRetention(db, maud.actor, { kind, days: null });
    const before = await countOf(db, 'FROM deliveries');
    await chooseRetention(db, maud.actor, { kind: 'deliveries', days: DAYS });
    const [chosen] = await retention(db, coordinator);
    expect(chosen).toMatchObject({ days: DAYS, daysNow: null, changedBy: 'Maud Fenwright' });
    expect(chosen!.fromMs! - Date.now()).toBeGreaterThan(23 * 3_600_000);
    await forgetAll();
    expect(await countOf(db, 'FROM deliveries')).toBe(before);
    // Longer than what is chosen, shorter than what holds: it waits too. Back to what holds: at once.
    await chooseRetention(db, maud.actor, { kind: 'deliveries', days: 365 });
    expect((await retention(db, coordinator))[0]).toMatchObject({ days: 365, daysNow: null });
    await chooseRetention(db, maud.actor, { kind: 'deliveries', days: null });
    expect((await retention(db, coordinator))[0]).toMatchObject({ days: null, daysNow: null, fromMs: null });
    await aDayLater();
    await forgetAll();
    expect(await countOf(db, 'FROM deliveries')).toBe(before);
  });

  it('is chosen by coordinators only, of what there is, for what can be', async () => {
    const editor = await signedIn(db, 'otieno');
    await expect(Promise.resolve().then(() => retention(db, editor.actor))).rejects.toMatchObject({
      status: 403,
    });
    await expect(chooseRetention(db, editor.actor, { kind: 'calls', days: 30 })).rejects.toMatchObject({
      status: 403,
    });
    for (const query of [
      'kind=people&days=30',
      'kind=audit&days=30',
      'kind=calls&days=31',
      'kind=calls&days=-1',
      'days=7',
    ])
      expect([
        query,
        (await callRoute('GET /api/retention/foreseen', GET, { session: maud, query })).status,
      ]).toEqual([query, 422]);
    const put = await callRoute('PUT /api/retention', PUT, {
      session: maud,
      body: { kind: 'posts', days: 7 },
    });
    expect(put.status).toBe(422);
    expect(JSON.parse(put.text)).toMatchObject({
      errors: [{ field: 'days', detail: expect.stringContaining('at least 90 days') as string }],
    });
  });

  it('goes by kinds, as was foreseen, and what was counted is counted still', async () => {
    const open = await rows<{ id: number }>(
      db,
      // A check-in by readers' clocks may be open and have asked nobody yet.
      `SELECT occurrence_id AS id FROM asks a WHERE closed_at IS NULL AND closes_at IS NOT NULL
       AND EXISTS (SELECT 1 FROM roll r WHERE r.occurrence_id = a.occurrence_id)`,
    );
    expect(open.length).toBeGreaterThan(0);
    const [poll] = await rows<{ id: number }>(
      db,
      'SELECT a.occurrence_id AS id FROM asks a JOIN ballots b ON b.occurrence_id = a.occurrence_id WHERE a.closed_at < NOW(3) - INTERVAL 90 DAY AND b.person_id IS NOT NULL LIMIT 1',
    );
    const [checkIn] = await rows<{ id: number; n: number }>(
      db,
      `SELECT c.occurrence_id AS id, COUNT(*) AS n FROM check_ins c JOIN asks a USING (occurrence_id)
       WHERE a.settled_at IS NOT NULL GROUP BY c.occurrence_id ORDER BY n DESC LIMIT 1`,
    );
    const keys = await keysOf(poll!.id);
    const counted = await figures();
    const unread = await unreadOn(db, maud.actor.id, [1, 2, 3]);
    for (const kind of KEPT_KINDS) {
      await chooseRetention(db, coordinator, { kind, days: daysOf(kind) });
      await aDayLater();
      const foreseen = await foresee(db, coordinator, { kind, days: daysOf(kind) });
      const before = await countOf(db, `FROM ${TABLE[kind]}`);
      await forgetAll();
      const gone = before - (await countOf(db, `FROM ${TABLE[kind]}`));
      expect([kind, foreseen.n > 0, gone > 0]).toEqual([kind, true, true]);
      // Of a run that spoke, what it said goes, and it stays.
      if (kind !== 'runs') expect([kind, gone]).toEqual([kind, foreseen.n]);
    }
    // What was still asked had kept its deliveries, and went with its answers.
    await forgetAll();

    expect(await figures()).toEqual(counted);
    // Nothing turns unread by it.
    for (const [board, n] of await unreadOn(db, maud.actor.id, [1, 2, 3]))
      expect(n).toBeLessThanOrEqual(unread.get(board)!);
    for (const { id } of open)
      expect(await countOf(db, 'FROM roll WHERE occurrence_id = ?', [id])).toBeGreaterThan(0);
    // Of the poll nobody's vote is known, nor could it be found by whoever has the secret.
    expect(
      await countOf(db, 'FROM ballots WHERE occurrence_id = ? AND person_id IS NOT NULL', [poll!.id]),
    ).toBe(0);
    const keysNow = new Set(await keysOf(poll!.id));
    expect(keys.length).toBeGreaterThan(0);
    expect(keys.filter((key) => keysNow.has(key))).toEqual([]);
    expect(
      (await listRoll(db, coordinator, poll!.id, { part: 'all', search: '', after: null })).people,
    ).toEqual([]);
    expect((await openRoll(db, coordinator, poll!.id)).namesHidden).toContain('was forgotten on');
    expect((await ballotsPage(db, maud, poll!.id, null)).ballots).toEqual([]);
    const csv = await new Response(await ballotsCsv(db, maud, poll!.id)).text();
    expect(csv.split('\n').length).toBeGreaterThan(2);
    expect(csv).not.toContain('Name');
    // Of a check-in it says how many, and does not say that nobody did.
    expect(await checkInPage(db, maud, checkIn!.id)).toMatchObject({
      said: [],
      missing: [],
      forgotten: { answered: checkIn!.n },
    });
    await forMe(db, maud.actor, null);
  });

  it('again finds nothing more to forget', async () => {
    for (const kind of KEPT_KINDS)
      expect([kind, (await foresee(db, coordinator, { kind, days: daysOf(kind) })).n]).toEqual([kind, 0]);
  });

  it('takes a draft that nobody went on with, and none that was sent, is a template, or was spoken of lately', async () => {
    const draft = async (title: string, state: 'draft' | 'template' = 'draft'): Promise<number> => {
      const id = await insertAnnouncement(db, coordinator.id, content({ title }), plan({}), state);
      await db('announcements')
        .where({ id })
        .update({ saved_at: db.raw('NOW(3) - INTERVAL 91 DAY') });
      return id;
    };
    const [old, spoken, sent] = [await draft('Of spring'), await draft('Spoken of'), await draft('Sent')];
    const template = await draft('A template', 'template');
    for (const id of [old, spoken])
      await db('comments').insert({
        announcement_id: id,
        author_id: coordinator.id,
        text: 'Why?',
        mentions: '[]',
      });
    await db('comments')
      .where({ announcement_id: old })
      .update({ written_at: db.raw('NOW(3) - INTERVAL 95 DAY') });
    await db('notices').insert({
      person_id: coordinator.id,
      kind: 'mention',
      about: 'comment:of-spring',
      title: 'Of spring',
      text: 'Please clear it',
      path: `/write/${old}`,
      why: 'Asked of you',
      in_inbox: true,
    });
    const { occurrenceId } = await confirmSend(db, coordinator, sent, { revision: 1 }, 'kept-for-so-long');
    await db('announcements').where({ id: sent }).update({ state: 'draft' });
    expect(occurrenceId).toBeGreaterThan(0);
    await forgetAll();
    const left = await rows<{ id: number }>(
      db,
      'SELECT id FROM announcements WHERE id IN (?, ?, ?, ?) ORDER BY id',
      [old, spoken, sent, template],
    );
    expect(left.map(({ id }) => id)).toEqual([spoken, sent, template]);
    expect(await countOf(db, 'FROM comments WHERE announcement_id = ?', [old])).toBe(0);
    expect(await countOf(db, 'FROM notices WHERE path = ?', [`/write/${old}`])).toBe(0);
  });

  it('takes a post with all that hangs on it, and leaves what somebody still needs', async () => {
    const [board] = await rows<{ id: number }>(
      db,
      "SELECT id FROM boards WHERE replying = 'members' LIMIT 1",
    );
    const upload = async (name: string): Promise<NewPost['files'][number]> => {
      const file = { key: randomBytes(16).toString('base64url'), name, mime: 'text/plain', bytes: 3 };
      await insertUpload(
        db,
        { ...file, width: null, height: null, bytes: Buffer.from('abc') },
        maud.actor.id,
      );
      return file;
    };
    const [own, shared] = [await upload('own.txt'), await upload('shared.txt')];
    const write = async (title: string, files: NewPost['files'][number][]): Promise<number> => {
      const made = { title, document: paragraph(`${title} body`), image: null, gallery: [], files };
      return (await writePost(db, maud.actor, board!.id, made, `key ${title}`)).id;
    };
    const [old, pinned, answered] = [
      await write('Quillwortia', [own, shared]),
      await write('Pinnedia', [shared]),
      await write('Answeredia', []),
    ];
    const reply = await writeReply(
      db,
      maud.actor,
      old,
      { document: paragraph('Ligulatum'), files: [] },
      'old-reply-key',
    );
    await pin(db, maud.actor, pinned, { pinned: true, until: null, replaces: null }, 'UTC');
    await followAll(db);
    expect(await whereIs(db, 'Quillwortia')).not.toEqual([]);
    expect(await whereIs(db, 'Ligulatum')).not.toEqual([]);
    await db.raw('UPDATE posts SET posted_at = posted_at - INTERVAL 91 DAY WHERE id IN (?, ?, ?)', [
      old,
      pinned,
      answered,
    ]);
    await db.raw('UPDATE replies SET written_at = written_at - INTERVAL 91 DAY WHERE id = ?', [reply]);
    await writeReply(
      db,
      maud.actor,
      answered,
      { document: paragraph('Still asked'), files: [] },
      'new-reply-key',
    );
    await db('events').delete();
    await forgetAll();
    // A way out was told of it, which has a time of its own; and a word by itself is a word.
    const apart = ['hook_deliveries.body', 'search_words.word', 'search_words.stem'];
    for (const word of ['Quillwortia', 'Ligulatum'])
      expect((await whereIs(db, word)).filter((place) => !apart.includes(place))).toEqual([]);
    expect(await countOf(db, 'FROM posts WHERE id IN (?, ?)', [pinned, answered])).toBe(2);
    // Its files go with it where nothing else has them.
    expect(await countOf(db, 'FROM uploads WHERE upload_key = ?', [own.key])).toBe(0);
    expect(await countOf(db, 'FROM uploads WHERE upload_key = ?', [shared.key])).toBe(1);
    expect(await countOf(db, 'FROM loose_uploads')).toBe(0);
  });
});
