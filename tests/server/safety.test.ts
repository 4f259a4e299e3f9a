import { createHash, randomBytes } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import fc from 'fast-check';
import type { Ask } from '../../src/core/asks/ask.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { EMPTY_POLL } from '../../src/core/asks/poll/poll.ts';
import type { Audience } from '../../src/core/audience/expression.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { readSession } from '../../src/server/accounts/service.ts';
import { insertSession } from '../../src/server/accounts/store.ts';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import { signIn } from '../../src/server/accounts/service.ts';
import { hashPassword } from '../../src/server/accounts/password.ts';
import { setPassword } from '../../src/server/accounts/store.ts';
import { after, deliveriesCsv } from '../../src/server/after/service.ts';
import {
  copyAnnouncement,
  discardDraft,
  openAnnouncement,
  review,
  saveAsTemplate,
  saveDraft,
} from '../../src/server/announcements/service.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { answer } from '../../src/server/asks/answering.ts';
import { askBox } from '../../src/server/asks/boxes.ts';
import { closeByHand, listAsks, listRoll, openRoll, wholeRoll } from '../../src/server/asks/service.ts';
import { ballotsCsv, openResults } from '../../src/server/asks/results.ts';
import { changeBoardSettings } from '../../src/server/boards/settings.ts';
import { insertBoard, setModerator } from '../../src/server/boards/store.ts';
import { comment } from '../../src/server/comments/service.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import type { Engine } from '../../src/server/engine/engine.ts';
import { requireClearance } from '../../src/server/groups/service.ts';
import { csvStream } from '../../src/server/http/csvStream.ts';
import { ownPath } from '../../src/server/http/ownPath.ts';
import { connectDevice } from '../../src/server/notices/service.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import { isPublicAddress } from '../../src/server/outside/address.ts';
import { vapidKeys } from '../../src/server/push/keys.ts';
import { writePost, rewritePost, takeDownOwn } from '../../src/server/posts/writing.ts';
import { decidePost } from '../../src/server/posts/moderating.ts';
import { openPost } from '../../src/server/posts/opening.ts';
import { rehearse, rehearsedPeople } from '../../src/server/rehearsal/service.ts';
import { listSavedAudiences, saveAudience } from '../../src/server/saved-audiences/service.ts';
import { forecast, quickCount } from '../../src/server/sends/forecast.ts';
import { sendPage } from '../../src/server/sends/page.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { chaseNow } from '../../src/server/sends/chaseNow.ts';
import { askShelf } from '../../src/server/shelf/service.ts';
import { giveThanks, personPage } from '../../src/server/thanks/service.ts';
import { addressIn } from '../../src/server/uploads/address.ts';
import { keepFile, keepImage } from '../../src/server/uploads/service.ts';
import { serveUpload } from '../../src/server/uploads/serving.ts';
import { changesInWorker } from '../../src/server/comparing/inWorker.ts';
import sharp from 'sharp';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  countOf,
  freshDatabase,
  makeDue,
  mailHouse,
  plan,
  reaches,
  SECRET,
  sendNow,
  startEngine,
  toGroups,
  type MailHouse,
} from './world.ts';

let db: Database;
let url: string;
let people: number[];
let south: number[];
let group: number;
let editor: Actor;
let mail: MailHouse;
let engine: Engine;
let keys = 0;
const key = (): string => `safety-key-${++keys}`;
const member = (id: number, moderates: number[] = []): Actor => ({
  id,
  role: 'member',
  moderates: new Set(moderates),
  mayReach: new Set(),
});
const text = (words: string) => ({
  type: 'doc' as const,
  content: [{ type: 'paragraph' as const, content: [{ type: 'text' as const, text: words }] }],
});
const post = (title: string) => ({ title, document: text(title), image: null, gallery: [], files: [] });
const session = { actor: coordinator, name: 'Maud', zone: 'UTC', owns: false };

beforeAll(async () => {
  ({ db, url } = await freshDatabase('safety'));
  people = await addPeople(db, 24, 1);
  south = await addPeople(db, 3, 2);
  await db('people').where({ id: people[0] }).update({ role: 'editor' });
  await db('people').where({ id: people[1] }).update({ role: 'editor' });
  group = await addGroup(db, 'In reach', people.slice(0, 20));
  editor = { id: people[0]!, role: 'editor', moderates: new Set(), mayReach: new Set([group]) };
  mail = await mailHouse();
  engine = await startEngine(db, mail.url);
});
afterAll(async () => {
  await engine.stop();
  await mail.stop();
  await db.destroy();
});

async function textOf(stream: ReadableStream<Uint8Array>): Promise<string> {
  return new Response(stream).text();
}

describe('a poll without names, watched by somebody with every right short of the database', () => {
  const poll: Ask = {
    kind: 'poll',
    poll: {
      ...EMPTY_POLL,
      question: 'Shall we?',
      options: [
        { label: 'Yes', at: null },
        { label: 'No', at: null },
      ],
      anonymous: true,
      shown: 'always',
      postBack: false,
    },
    deadline: null,
    within: 48,
    chase: null,
    joiners: false,
  };

  /** Everything the author and a coordinator can be shown of an ask, but the bare count of votes. */
  async function everythingShown(
    id: number,
  ): Promise<{ shown: string; voted: number; counts: Record<number, number> }> {
    const roll = await openRoll(db, coordinator, id);
    const results = await openResults(db, session, id);
    const names = await listRoll(db, coordinator, id, { part: 'all', search: '', after: null });
    const became = await after(db, coordinator, id);
    const box = await askBox(db, SECRET, { id: people[23]!, zone: 'UTC' }, id);
    const { tally, ...rest } = roll;
    return {
      voted: results.poll!.outcome?.voted ?? 0,
      counts: Object.fromEntries(
        (results.poll!.outcome?.counts ?? []).map(({ id: option, n }) => [option, n]),
      ),
      shown: JSON.stringify([
        rest,
        results.curve,
        results.poll!.breakdown,
        names,
        became.curve.map((each) => each.answered),
        box.poll!.outcome,
        tally.asked,
      ]),
    };
  }

  it('tells no part, no time and no name while it is open, grows by five or more, and leaves no remainder under five', async () => {
    const owned = await addGroup(db, 'Owned', people.slice(0, 6));
    await db('group_owners').insert({ group_id: owned, person_id: people[22] });
    const id = await sendNow(db, { ask: poll, mail: false });
    await reaches(db, id, 'sent');
    const before = await everythingShown(id);
    let last = before;
    const grown: number[] = [];
    for (const [i, person] of people.slice(0, 23).entries()) {
      await answer(db, SECRET, person, id, { choices: [i % 3 === 0 ? 1 : 2] }, 'page');
      const now = await everythingShown(id);
      if (now.voted !== last.voted) grown.push(now.voted - last.voted);
      // Between two steps nothing that is shown changes at a vote but the bare count.
      else expect(now.shown).toBe(last.shown);
      last = now;
    }
    expect(grown.length).toBeGreaterThan(1);
    for (const step of grown) expect(step).toBeGreaterThanOrEqual(5);
    expect((JSON.parse(last.shown) as unknown[])[0]).toMatchObject({
      stations: [],
      groups: [],
      opened: 0,
      goneSince: 0,
    });
    // Whoever looks after a group sees nothing of it, nor that it is there.
    const owner = member(people[22]!);
    await expect(openRoll(db, owner, id)).rejects.toMatchObject({ status: 404 });
    expect((await listAsks(db, owner).catch(() => [])).map((each) => each.occurrenceId)).not.toContain(id);
    await expect(
      (async () => {
        const told: unknown[] = [];
        for await (const row of wholeRoll(db, coordinator, id)) told.push(row);
      })(),
    ).rejects.toMatchObject({ status: 409 });
    await expect(ballotsCsv(db, session, id)).rejects.toMatchObject({ status: 409 });
    // Nor is it told by an audience: counted, forecast, saved, rehearsed.
    const voted: Audience = { kind: 'answered', occurrenceId: id, answered: true };
    for (const audience of [
      voted,
      { kind: 'all', of: [{ kind: 'person', id: people[3]! }, voted] } as Audience,
      { kind: 'except', from: { kind: 'everyone' }, minus: voted } as Audience,
    ]) {
      await expect(quickCount(db, coordinator, audience)).rejects.toMatchObject({ status: 403 });
      expect(
        await forecast(db, coordinator, plan({ audience }), {
          importance: 'routine',
          event: null,
          fields: [],
          mentions: [],
          sections: 1,
        }),
      ).toMatchObject({ people: 0, sample: [], right: { outcome: 'denied' } });
      await expect(saveAudience(db, coordinator, { name: key(), audience })).rejects.toMatchObject({
        status: 403,
      });
      const draft = await insertAnnouncement(db, coordinator.id, content(), plan({ audience }), 'draft');
      await expect(
        rehearse(db, session, draft, 2, { links: false, publicUrl: 'http://localhost' }),
      ).rejects.toMatchObject({ status: 403 });
      await expect(
        rehearsedPeople(db, coordinator, draft, { filter: 'all', search: '', after: null }),
      ).rejects.toMatchObject({ status: 403 });
    }
    // A chase goes to those who have not voted: who they are is not told, by its file or its page.
    const { occurrenceId: chase } = await chaseNow(db, coordinator, id, key());
    await makeDue(db, chase);
    await reaches(db, chase, 'sent');
    await expect(deliveriesCsv(db, coordinator, chase)).rejects.toMatchObject({ status: 409 });
    const page = JSON.stringify(await sendPage(db, coordinator, chase));
    for (const person of people) expect(page).not.toContain(`Person ${String(person).padStart(5, '0')}`);

    await closeByHand(db, coordinator, id);
    const closed = await everythingShown(id);
    // What comes on top at the end is all or nothing of five.
    expect(closed.voted - last.voted).toBeGreaterThanOrEqual(5);
    expect(closed.voted).toBe(23);
    // No part that is shown, and no difference between parts and the whole, is of one to four.
    const { poll: result } = await openResults(db, session, id);
    const parts = result!.breakdown?.rows ?? [];
    for (const part of parts) expect(part.answered).toBeGreaterThanOrEqual(5);
    const rest = 23 - parts.reduce((sum, part) => sum + part.answered, 0);
    if (parts.length > 0) expect(rest === 0 || rest >= 5).toBe(true);
  });

  it('is not what a later ask of its series is set beside while it is open, and is once it is closed', async () => {
    const voted = await sendNow(db, { ask: poll, mail: false });
    await reaches(db, voted, 'sent');
    for (const person of people.slice(0, 7))
      await answer(db, SECRET, person, voted, { choices: [1] }, 'page');
    const later = await sendNow(db, {
      ask: { kind: 'acknowledgement', deadline: null, within: 48, chase: null, joiners: false } as Ask,
      mail: false,
    });
    await reaches(db, later, 'sent');
    const [series] = await db('series').insert({ name: 'Minutes', categories: '[]' });
    const versions = db('occurrences').whereIn('id', [voted, later]).select('version_id');
    await db('announcement_versions').whereIn('id', versions).update({ series_id: series });
    const open = await openResults(db, session, later);
    expect(open.before).toBeNull();
    expect(open.curve.every((step) => step.before === null)).toBe(true);
    await closeByHand(db, coordinator, voted);
    const closed = await openResults(db, session, later);
    expect(closed.before).toMatchObject({ occurrenceId: voted, answered: 7 });
    expect(closed.curve.at(-1)?.before).toBe(7);
  });
});

describe('what an audience names', () => {
  it('must be this person’s to see: groups, sends and who read or answered them', async () => {
    const trustees = await addGroup(db, 'Trustees', people.slice(20, 24));
    const send = await sendNow(db, { ask: acknowledgement(), mail: false });
    await reaches(db, send, 'sent');
    const reach: Audience = { kind: 'group', id: group };
    const probes: Audience[] = [
      { kind: 'group', id: trustees },
      { kind: 'except', from: reach, minus: { kind: 'group', id: trustees } },
      { kind: 'all', of: [reach, { kind: 'answered', occurrenceId: send, answered: true }] },
      { kind: 'all', of: [reach, { kind: 'read', occurrenceId: send }] },
      { kind: 'all', of: [reach, { kind: 'reached', occurrenceId: send }] },
      { kind: 'all', of: [reach, { kind: 'read', occurrenceId: 9_999_999 }] },
    ];
    const told: string[] = [];
    for (const audience of probes) {
      await expect(quickCount(db, editor, audience)).rejects.toMatchObject({ status: 403 });
      const seen = await forecast(db, editor, plan({ audience }), {
        importance: 'routine',
        event: null,
        fields: [],
        mentions: [],
        sections: 1,
      });
      expect(seen).toMatchObject({ people: 0, sample: [], missed: [], right: { outcome: 'denied' } });
      expect(JSON.stringify(seen)).not.toMatch(/Trustees|Road closed/);
      told.push(JSON.stringify(seen.right));
      const draft = await insertAnnouncement(db, editor.id, content(), plan({ audience }), 'draft');
      await expect(
        rehearse(db, { actor: editor, zone: 'UTC' }, draft, 2, {
          links: false,
          publicUrl: 'http://localhost',
        }),
      ).rejects.toMatchObject({ status: 403 });
      await saveAudience(db, coordinator, { name: key(), audience });
    }
    // What is there and what is not is refused alike.
    expect(told[3]).toBe(told[5]);
    expect((await listSavedAudiences(db, editor)).length).toBe(0);
    expect((await quickCount(db, editor, reach)).people).toBe(20);
    // A board that is not theirs is not named.
    const hidden = await insertBoard(db, {
      name: 'Hidden board',
      about: 'x',
      groupId: trustees,
      ...PRESETS.talk.switches,
      ownerId: people[20]!,
    });
    const brief = { importance: 'routine' as const, event: null, fields: [], mentions: [], sections: 1 };
    expect(
      JSON.stringify(await forecast(db, editor, plan({ audience: reach, boards: [hidden] }), brief)),
    ).not.toContain('Hidden board');
  });

  it('is cleared where a group that asks for it is reached, however that is said', async () => {
    const few = await addGroup(db, 'Asks', people.slice(10, 13));
    await db('people').whereIn('id', people.slice(10, 13)).update({ occupation: 'keeper' });
    await requireClearance(db, coordinator, few, true);
    const place = await insertBoard(db, {
      name: 'Their place',
      about: 'x',
      groupId: few,
      ...PRESETS.news.switches,
      ownerId: coordinator.id,
    });
    const brief = { importance: 'routine' as const, event: null, fields: [], mentions: [], sections: 1 };
    const asks = async (part: Parameters<typeof plan>[0]) =>
      (await forecast(db, coordinator, plan(part), brief)).clearance;
    const everyone: Audience = { kind: 'everyone' };
    expect(await asks({ audience: { kind: 'group', id: few } })).toEqual(['Asks']);
    expect(await asks({ audience: { kind: 'occupation', occupation: 'keeper' } })).toEqual(['Asks']);
    expect(
      await asks({
        audience: {
          kind: 'except',
          from: everyone,
          minus: { kind: 'except', from: everyone, minus: { kind: 'group', id: few } },
        },
      }),
    ).toEqual(['Asks']);
    expect(await asks({ audience: null, boards: [place] })).toEqual(['Asks']);
    expect(
      await asks({
        audience: { kind: 'any', of: people.slice(10, 12).map((id) => ({ kind: 'person' as const, id })) },
      }),
    ).toEqual(['Asks']);
    // One of them as what else they are, and news for all, single nobody out.
    expect(await asks({ audience: { kind: 'person', id: people[10]! } })).toEqual([]);
    expect(await asks({ audience: everyone })).toEqual([]);
    await requireClearance(db, coordinator, few, false);
  });

  it('one figure: what the forecast says is what goes out, at any hour and on any working day', async () => {
    await engine.stop();
    const brief = { importance: 'urgent' as const, event: null, fields: [], mentions: [], sections: 1 };
    const audiences: Audience[] = [
      { kind: 'everyone' },
      { kind: 'station', id: 2 },
      { kind: 'group', id: group },
    ];
    const { expandNow } = await import('./expandNow.ts');
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...audiences),
        fc.integer({ min: -20, max: 20 }),
        fc.constantFrom('not', 'at once', 'next day'),
        fc.boolean(),
        async (audience, hours, passed, mails) => {
          const part = plan({
            audience,
            mail: mails,
            timing: {
              kind: 'local',
              wall: wallAt(Date.now() + hours * 3_600_000, 'UTC'),
              passed: passed as 'not',
            },
          });
          const said = await forecast(db, coordinator, part, brief);
          if (said.problems.length > 0) return;
          const id = await insertAnnouncement(
            db,
            coordinator.id,
            content({ importance: 'urgent' }),
            part,
            'draft',
          );
          const { occurrenceId } = await confirmSend(db, coordinator, id, { revision: 1 }, key());
          await db.raw("UPDATE buckets SET due_at = NOW(3) WHERE occurrence_id = ? AND state = 'planned'", [
            occurrenceId,
          ]);
          await expandNow(db, occurrenceId);
          const count = (method: string) =>
            countOf(db, 'FROM deliveries WHERE occurrence_id = ? AND method = ?', [occurrenceId, method]);
          expect(await count('inbox')).toBe(said.people);
          expect(await count('mail')).toBe(said.byMail);
        },
      ),
      { numRuns: 25 },
    );
    engine = await startEngine(db, mail.url);
  });
});

describe('drafts', () => {
  const draft = (audience: Audience | null, by = coordinator.id) =>
    insertAnnouncement(db, by, content(), plan({ audience }), 'draft');
  it('for nobody yet are nobody’s but their author’s, handed on or not', async () => {
    const id = await draft(null);
    await review(db, coordinator, id, { step: 'hand on', revision: 1 });
    for (const work of [openAnnouncement, copyAnnouncement, saveAsTemplate, discardDraft])
      await expect(work(db, editor, id)).rejects.toMatchObject({ status: 404 });
  });

  it('are not thrown away by whoever looks at them, and saving answers for what it did', async () => {
    const id = await draft(toGroups([group]));
    await review(db, coordinator, id, { step: 'hand on', revision: 1 });
    await expect(discardDraft(db, editor, id)).rejects.toMatchObject({ status: 403 });
    // Taken out of their own reach by the very save: it is saved, and says so.
    const saved = await saveDraft(db, editor, id, {
      content: content({ title: 'By a reviewer' }),
      plan: plan({ audience: { kind: 'everyone' } }),
      revision: 1,
      saveOver: false,
    });
    expect(saved.revision).toBe(2);
    expect((await openAnnouncement(db, coordinator, id)).content.title).toBe('By a reviewer');
    // Whoever wrote in it, or is called in a comment, still finds it.
    expect((await openAnnouncement(db, editor, id)).review).toBe('for review');
    const other: Actor = { id: people[1]!, role: 'editor', moderates: new Set(), mayReach: new Set() };
    await expect(openAnnouncement(db, other, id)).rejects.toMatchObject({ status: 404 });
    await comment(db, coordinator, id, { text: 'What do you think?', mentions: [other.id] });
    expect((await openAnnouncement(db, other, id)).id).toBe(id);
  });

  it('returned and sent at once: one of the two, never both', async () => {
    const asking = await addGroup(db, `Cleared ${key()}`, people.slice(2, 9));
    await requireClearance(db, coordinator, asking, true);
    const clearer: Actor = {
      id: people[1]!,
      role: 'editor',
      moderates: new Set(),
      mayReach: new Set([asking]),
    };
    const won = { returned: 0, sent: 0 };
    for (let i = 0; i < 12; i++) {
      const id = await draft(toGroups([asking]));
      await review(db, coordinator, id, { step: 'hand on', revision: 1 });
      await review(db, clearer, id, { step: 'clear', revision: 1 });
      const [returned, sent] = await Promise.allSettled([
        review(db, clearer, id, { step: 'return', revision: 1 }),
        confirmSend(db, coordinator, id, { revision: 1 }, key()),
      ]);
      expect([returned.status, sent.status].sort()).toEqual(['fulfilled', 'rejected']);
      won[sent.status === 'fulfilled' ? 'sent' : 'returned']++;
    }
    expect(won.returned + won.sent).toBe(12);
    await requireClearance(db, coordinator, asking, false);
  });
});

it('an edit never raises a post’s standing, whatever the switches say now', async () => {
  const board = await insertBoard(db, {
    name: 'Held',
    about: 'x',
    groupId: group,
    ...PRESETS.held.switches,
    ownerId: people[19]!,
  });
  await setModerator(db, board, people[18]!, true);
  const author = member(people[3]!);
  const moderator = member(people[18]!, [board]);
  const held = await writePost(db, author, board, post('Held'), key());
  const back = await writePost(db, author, board, post('Back'), key());
  await decidePost(db, moderator, back.id, { decision: 'return', note: 'Shorter please' });
  await changeBoardSettings(db, coordinator, board, { posting: 'moderators' });
  for (const { id } of [held, back]) {
    expect((await rewritePost(db, author, id, post('Again'))).state).toBe('held');
    await expect(openPost(db, member(people[4]!), id)).rejects.toMatchObject({ status: 404 });
  }
  await changeBoardSettings(db, coordinator, board, { posting: 'members' });
  expect((await rewritePost(db, author, held.id, post('Now'))).state).toBe('up');
  expect((await openPost(db, member(people[4]!), held.id)).post.title).toBe('Now');
});

describe('files', () => {
  it('are read by a signed address as long as they stand where it was signed for', async () => {
    const board = await insertBoard(db, {
      name: 'Files',
      about: 'x',
      groupId: group,
      ...PRESETS.talk.switches,
      ownerId: people[19]!,
    });
    const author = member(people[3]!);
    const file = await keepFile(db, author, Buffer.from('a;b\n'), 'a.csv');
    const { id } = await writePost(db, author, board, { ...post('With a file'), files: [file] }, key());
    const { post: shown } = await openPost(db, member(people[4]!), id);
    const href = /href="(\/files\/[^"]+)"/.exec(shown.html)![1]!.replaceAll('&amp;', '&');
    const address = new URL(href, 'http://bell.test');
    const signed = address.searchParams.get('in');
    const nobody = { actor: null, signed, draft: null };
    expect((await serveUpload(db, nobody, file.key, 'a.csv')).bytes.toString()).toBe('a;b\n');
    // Without the signature, with another file's, with one for another place, or signed in as somebody else: nothing.
    const other = await keepFile(db, author, Buffer.from('c;d\n'), 'c.csv');
    for (const by of [
      { ...nobody, signed: null },
      { ...nobody, signed: addressIn('post', id)(`/files/${other.key}/x`).split('in=')[1]! },
      { ...nobody, signed: addressIn('post', id + 1)(`/files/${file.key}/x`).split('in=')[1]! },
      { actor: member(people[4]!), signed: null, draft: null },
    ])
      await expect(serveUpload(db, by, file.key, 'a.csv')).rejects.toMatchObject({ status: 404 });
    // Somebody who knows its key cannot put it in a post of their own.
    await expect(
      writePost(db, member(people[4]!), board, { ...post('Stolen'), files: [file] }, key()),
    ).rejects.toMatchObject({ status: 422 });
    await takeDownOwn(db, author, id);
    await expect(serveUpload(db, nobody, file.key, 'a.csv')).rejects.toMatchObject({ status: 404 });
  });

  it('an image is cut once, however often it is asked for', async () => {
    const bytes = await sharp({ create: { width: 1200, height: 900, channels: 3, background: '#1c6b60' } })
      .png()
      .toBuffer();
    const { key: image } = await keepImage(db, coordinator, bytes, 'a.png');
    const own = { actor: coordinator, signed: null, draft: null };
    const cuts = await Promise.all(
      Array.from({ length: 20 }, () => serveUpload(db, own, image, 'wide-50-50.webp')),
    );
    expect(new Set(cuts.map((cut) => cut.bytes.toString('base64'))).size).toBe(1);
    expect(await countOf(db, 'FROM upload_cuts WHERE upload_key = ?', [image])).toBe(1);
    // A cut is kept for each place it stands in, not for every point somebody asks for.
    for (let x = 0; x < 60; x++) await serveUpload(db, own, image, `beside-${x}-1.webp`);
    expect(await countOf(db, 'FROM upload_cuts WHERE upload_key = ?', [image])).toBeLessThanOrEqual(48);
  });
});

describe('signing in', () => {
  it('counts before it looks: of eighty at once ten pass, and look-alikes are the same address', async () => {
    await setPassword(db, coordinator.id, await hashPassword('a long enough password'));
    const limit = new AttemptLimit(url);
    const attempt = (mailed: string, place: string) =>
      signIn(db, limit, { mail: mailed, password: 'wrong' }, place).then(
        () => 200,
        (error: unknown) => (error as { status: number }).status,
      );
    const at = await Promise.all(Array.from({ length: 40 }, () => attempt('maud@test.example', '10.9.0.1')));
    expect(at.filter((status) => status === 401)).toHaveLength(10);
    for (const alike of [
      'ma\u200bud@test.example',
      'ｍａｕｄ@test.example',
      'MAUD@TEST.EXAMPLE',
      'maud@test.example\u2060',
    ])
      expect(await attempt(alike, '10.9.0.1')).toBe(429);
    // From many places together no faster than sixty a quarter of an hour.
    const many = await Promise.all(
      Array.from({ length: 70 }, (_, i) => attempt('maud@test.example', `10.9.1.${i}`)),
    );
    expect(many.filter((status) => status === 401).length).toBeLessThanOrEqual(50);
    expect(await attempt('😀'.repeat(60), '10.9.0.2')).toBe(401);
  });

  it('leads nowhere but to pages of this application', () => {
    expect(ownPath('/boards/3?x=1#y')).toBe('/boards/3?x=1#y');
    for (const elsewhere of [
      '/\t/evil.example',
      '//evil.example',
      '/\\evil.example',
      '/\n//evil.example',
      'https://evil.example',
      '/%09/../..//evil.example',
      'javascript:alert(1)',
    ])
      expect(new URL(ownPath(elsewhere), 'http://bell.test').host).toBe('bell.test');
  });

  it('the last coordinator cannot be lost, not even by two at once', async () => {
    const [id] = await db('people').insert({
      name: 'Second',
      mail: 'second@test.example',
      role: 'coordinator',
      zone: 'UTC',
      joined_on: '2020-01-01',
    });
    const second: Actor = { ...coordinator, id: id! };
    const both = await Promise.allSettled([
      changeStanding(db, coordinator, second.id, true),
      changeStanding(db, second, coordinator.id, true),
    ]);
    expect(both.map((each) => each.status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await countOf(db, "FROM people WHERE role = 'coordinator' AND standing <> 'left'")).toBe(1);
    await db('people')
      .whereIn('id', [coordinator.id, second.id])
      .update({ standing: 'active', left_at: null });
    await db('people').where({ id: second.id }).update({ role: 'member' });
  });

  it('a device ends with the session it was connected in, is nobody else’s, and its keys must be keys', async () => {
    const person = member(people[5]!);
    const token = randomBytes(32).toString('base64url');
    const hash = createHash('sha256').update(token).digest();
    await insertSession(db, hash, person.id, 1);
    const { publicKey } = vapidKeys('another secret for the keys of a device, long');
    const device = {
      label: 'Phone',
      endpoint: 'http://localhost:9/x',
      keys: { p256dh: publicKey, auth: randomBytes(16).toString('base64url') },
    };
    const standIn = 'http://localhost:9';
    await connectDevice(db, person, device, standIn, hash);
    const thief = {
      ...device,
      keys: {
        p256dh: vapidKeys('the keys of somebody else altogether, and long').publicKey,
        auth: device.keys.auth,
      },
    };
    await expect(connectDevice(db, member(people[6]!), thief, standIn, null)).rejects.toMatchObject({
      status: 409,
    });
    await expect(
      connectDevice(
        db,
        person,
        { ...device, keys: { ...device.keys, p256dh: 'B'.repeat(87) } },
        standIn,
        hash,
      ),
    ).rejects.toMatchObject({ status: 422 });
    const more = await Promise.allSettled(
      Array.from({ length: 15 }, (_, i) =>
        connectDevice(db, person, { ...device, endpoint: `http://localhost:9/${i}` }, standIn, hash),
      ),
    );
    expect(more.filter((each) => each.status === 'fulfilled')).toHaveLength(9);
    expect(await readSession(db, token)).toBeDefined();
    await db('sessions').where({ token_hash: hash }).delete();
    expect(await countOf(db, 'FROM devices WHERE person_id = ?', [person.id])).toBe(0);
    for (const inside of [
      '::ffff:10.0.0.1',
      '64:ff9b::a00:1',
      '2002:a00:1::',
      '2001:0:a00:1::',
      'fe80::1',
      '0.0.0.0',
      '169.254.1.1',
      '100.64.0.1',
      '255.255.255.255',
      'x',
    ])
      expect(isPublicAddress(inside), inside).toBe(false);
    expect(isPublicAddress('93.184.216.34') && isPublicAddress('2606:2800:220:1::1')).toBe(true);
  });
});

it('nobody opens an unpublished answer by naming it, nor a linked contact', async () => {
  const [subject] = await db('shelf_subjects').insert({ name: 'Keys' });
  const [hidden] = await db('shelf_answers').insert({
    subject_id: subject,
    question: 'Secret?',
    document: JSON.stringify(text('x')),
    written_by: coordinator.id,
  });
  const asked = { text: 'Where?', found: 0, helpedBy: hidden!, offered: [], note: '', named: false };
  await expect(askShelf(db, member(people[3]!), asked, key())).rejects.toMatchObject({ status: 404 });
  const [contact] = await db('people').insert({
    name: 'A mother',
    mail: 'mother@test.example',
    linked_to: people[3],
    zone: 'UTC',
    joined_on: '2020-01-01',
  });
  await expect(personPage(db, member(people[4]!), contact!)).rejects.toMatchObject({ status: 404 });
  const thanksBoard = await insertBoard(db, {
    name: 'Thanks',
    about: 'x',
    groupId: null,
    ...PRESETS.everybody.switches,
    takesThanks: true,
    ownerId: coordinator.id,
  });
  await expect(
    giveThanks(
      db,
      member(people[4]!),
      { boardId: thanksBoard, ribbonId: 1, to: [contact!], sentence: 'Thank you' },
      key(),
    ),
  ).rejects.toMatchObject({ status: 422 });
});

it('a CSV runs nothing in a spreadsheet, heading or cell, in full width or behind nothing', async () => {
  async function* lines(): AsyncGenerator<string[][]> {
    yield await Promise.resolve([['＝1+1', '\u200b=1+1', '-2', ' @x', 'plain']]);
  }
  const file = await textOf(csvStream(['=cmd()', 'b', 'c', 'd', 'e'], lines()));
  for (const cell of file
    .replace('\ufeff', '')
    .split(/[\r\n,]+/)
    .filter(Boolean))
    expect(cell.replace(/"/g, ''), cell).not.toMatch(/^[\s\p{Cf}]*[=+\-@＝]/u);
  expect(file).toContain('plain');
});

it('what changed in a long text is found in a worker, bounded, and loses nothing', async () => {
  const words = (seed: number) => Array.from({ length: 4_000 }, (_, i) => `w${(i * seed) % 997}`).join(' ');
  const before = `${words(7)}\n\nThe same paragraph.\n\n${words(11)}`;
  const now = `${words(13)}\n\nThe same paragraph.\n\n${words(17)}`;
  let turns = 0;
  const beat = setInterval(() => turns++, 10);
  const began = Date.now();
  const changes = await changesInWorker(before, now);
  clearInterval(beat);
  // The process went on meanwhile: about as many turns as the time held.
  expect(turns).toBeGreaterThan((Date.now() - began) / 10 / 4);
  expect(
    changes
      .filter((each) => each.kind !== 'in')
      .map((each) => each.text)
      .join(''),
  ).toBe(before);
  expect(
    changes
      .filter((each) => each.kind !== 'out')
      .map((each) => each.text)
      .join(''),
  ).toBe(now);
  const small = await changesInWorker('One two three.\n\nFour.', 'One too three.\n\nFour.');
  expect(small.find((each) => each.kind === 'in')?.text).toBe('too');
}, 30_000);

it('an outcome of dates is told on each reader’s clock', async () => {
  const ask: Ask = {
    kind: 'poll',
    poll: {
      ...EMPTY_POLL,
      question: 'When?',
      kind: 'dates',
      options: [
        { label: '', at: { wall: '2030-03-01T09:00', zone: 'UTC' } },
        { label: '', at: { wall: '2030-03-02T09:00', zone: 'UTC' } },
      ],
    },
    deadline: null,
    within: 48,
    chase: null,
    joiners: false,
  };
  const id = await sendNow(db, { ask, mail: false });
  await reaches(db, id, 'sent');
  await answer(db, SECRET, people[3]!, id, { answers: { 1: 'yes' } }, 'page');
  await closeByHand(db, coordinator, id);
  const told = async (person: number): Promise<string | undefined> =>
    (
      await rows<{ text: string }>(db, 'SELECT text FROM notices WHERE person_id = ? AND about = ?', [
        person,
        `outcome:${id}`,
      ])
    )[0]?.text;
  const { until } = await import('../../scripts/house/processes.ts');
  expect(await until(async () => (await told(south[0]!)) !== undefined, 20_000)).toBe(true);
  expect(await told(people[3]!)).toContain('09:00');
  expect(await told(south[0]!)).toContain('22:00');
});
