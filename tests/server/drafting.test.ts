import { createHash } from 'node:crypto';
import ICAL from 'ical.js';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { EMPTY_PLAN, type Plan } from '../../src/core/plan/plan.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import {
  changesSince,
  copyAnnouncement,
  listEarlierTexts,
  listForReview,
  openAnnouncement,
  review,
  saveAsTemplate,
  saveDraft,
} from '../../src/server/announcements/service.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { callsOn } from '../../src/server/comments/store.ts';
import { comment, setCommentSettled } from '../../src/server/comments/service.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { newFeedKey, plannedFeed } from '../../src/server/feed/service.ts';
import { requireClearance } from '../../src/server/groups/service.ts';
import { setReach } from '../../src/server/groups/store.ts';
import { history } from '../../src/server/history/service.ts';
import { signLink } from '../../src/server/links/signed.ts';
import { forgetAudience, saveAudience } from '../../src/server/saved-audiences/service.ts';
import { makeSeries, nextIssue, openSeries } from '../../src/server/series/service.ts';
import { openInvitation, signUp } from '../../src/server/sign-ups/service.ts';
import { signUpsBySharer } from '../../src/server/sign-ups/store.ts';
import { sendTest } from '../../src/server/sends/service.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { reviewers, sayClosed, sayOpen, share } from '../../src/server/sharing/service.ts';
import {
  keepCaptions,
  keepFile,
  keepImage,
  keepVideo,
  MOST_UPLOAD,
  requireOwnUploads,
} from '../../src/server/uploads/service.ts';
import { readPart, serveUpload } from '../../src/server/uploads/serving.ts';
import { PART_BYTES } from '../../src/server/uploads/store.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  countOf,
  followAll,
  freshDatabase,
  plan,
  SECRET,
  toGroups,
} from './world.ts';

let db: Database;
let group: number;
const second: Actor = { id: 2, role: 'coordinator', moderates: new Set(), mayReach: new Set() };
const member: Actor = { id: 4, role: 'member', moderates: new Set(), mayReach: new Set() };
let editor: Actor;
let keys = 0;
const key = (): string => `drafting-key-${++keys}`;

beforeAll(async () => {
  ({ db } = await freshDatabase('drafting'));
  await addPeople(db, 10);
  await db('people').where({ id: 2 }).update({ role: 'coordinator' });
  await db('people').where({ id: 3 }).update({ role: 'editor' });
  group = await addGroup(db, 'Trustees', [5, 6, 7]);
  editor = { id: 3, role: 'editor', moderates: new Set(), mayReach: new Set([group]) };
});
afterAll(() => db.destroy());

const draft = (part: Partial<Plan> = {}, by = coordinator, text: Parameters<typeof content>[0] = {}) =>
  insertAnnouncement(db, by.id, content(text), plan({ audience: toGroups([group]), ...part }), 'draft');

describe('clearance', () => {
  it('is needed where the group asks for it, given by somebody else, and lost by a change', async () => {
    await requireClearance(db, coordinator, group, true);
    await expect(requireClearance(db, editor, group, false)).rejects.toThrow(/Only a coordinator/);
    const id = await draft();
    const send = (revision: number) => confirmSend(db, coordinator, id, { revision }, key());
    await expect(send(1)).rejects.toMatchObject({ status: 422, errors: [{ field: 'review' }] });

    await expect(review(db, second, id, { step: 'clear', revision: 1 })).rejects.toThrow(/not handed on/);
    await review(db, coordinator, id, { step: 'hand on', revision: 1 });
    await expect(review(db, coordinator, id, { step: 'clear', revision: 1 })).rejects.toThrow(
      /Nobody clears/,
    );
    await expect(review(db, member, id, { step: 'clear', revision: 1 })).rejects.toMatchObject({
      status: 404,
    });
    expect((await listForReview(db, second)).map((each) => each.id)).toContain(id);
    expect((await listForReview(db, editor)).map((each) => each.id)).toContain(id);
    expect((await listForReview(db, coordinator)).map((each) => each.id)).not.toContain(id);
    await review(db, editor, id, { step: 'clear', revision: 1 });

    const saved = await saveDraft(db, coordinator, id, {
      content: content({ title: 'Changed' }),
      plan: plan({ audience: toGroups([group]) }),
      revision: 1,
      saveOver: false,
    });
    // It waits to be cleared again, and whoever cleared it still finds it.
    await expect(send(saved.revision)).rejects.toMatchObject({ errors: [{ field: 'review' }] });
    expect((await openAnnouncement(db, editor, id)).review).toBe('for review');
    await expect(review(db, second, id, { step: 'clear', revision: 1 })).rejects.toThrow(
      /changed after you read/,
    );
    await review(db, second, id, { step: 'clear', revision: saved.revision });
    await send(saved.revision);
    const deeds = (await history(db, coordinator, id)).map((deed) => deed.action);
    expect(deeds).toEqual(['send', 'clear', 'change after clearance', 'clear', 'hand on for review']);
    await requireClearance(db, coordinator, group, false);
  });

  it('shows a draft to an editor only while it is handed on and in their reach', async () => {
    const id = await draft();
    await expect(openAnnouncement(db, editor, id)).rejects.toMatchObject({ status: 404 });
    await review(db, coordinator, id, { step: 'hand on', revision: 1 });
    expect((await openAnnouncement(db, editor, id)).id).toBe(id);
    await review(db, second, id, { step: 'return', revision: 1 });
    await expect(openAnnouncement(db, editor, id)).rejects.toMatchObject({ status: 404 });
  });
});

describe('a draft is worked on together', () => {
  it('with comments that call people until they are settled', async () => {
    const id = await draft();
    const [said] = await comment(db, coordinator, id, { text: 'Is this right, Person 2?', mentions: [2] });
    expect((await callsOn(db, 2, 5)).map((call) => call.announcementId)).toContain(id);
    await expect(comment(db, member, id, { text: 'hello', mentions: [] })).rejects.toMatchObject({
      status: 404,
    });
    const after = await setCommentSettled(db, second, id, said?.id ?? 0, true);
    expect(after[0]?.settledMs).not.toBeNull();
    expect((await callsOn(db, 2, 5)).map((call) => call.announcementId)).not.toContain(id);
    // A comment of another draft cannot be reached through this one.
    const other = await draft();
    await setCommentSettled(db, second, other, said?.id ?? 0, false);
    expect((await setCommentSettled(db, second, id, 999_999, false))[0]?.settledMs).not.toBeNull();
  });

  it('with versions that say what changed', async () => {
    const id = await draft();
    await saveDraft(db, second, id, {
      content: content({ title: 'Road open' }),
      plan: EMPTY_PLAN,
      revision: 1,
      saveOver: false,
    });
    const [version] = await listEarlierTexts(db, coordinator, id);
    expect(version?.kind).toBe('overwritten');
    const changes = await changesSince(db, coordinator, id, version?.id ?? 0);
    expect(changes.filter((change) => change.kind !== 'same')).toEqual([
      { kind: 'out', text: 'closed' },
      { kind: 'in', text: 'open' },
    ]);
  });

  it('is kept as a template, which is started from and never sent', async () => {
    const id = await draft();
    const templateId = await saveAsTemplate(db, coordinator, id);
    await expect(confirmSend(db, coordinator, templateId, { revision: 1 }, key())).rejects.toThrow(
      /not sent/,
    );
    const copy = await openAnnouncement(db, editor, await copyAnnouncement(db, editor, templateId));
    expect(copy).toMatchObject({ authorId: 3, state: 'draft' });
    expect(copy.plan.audience).toEqual(toGroups([group]));
    await expect(copyAnnouncement(db, member, templateId)).rejects.toMatchObject({ status: 403 });
  });

  it('is tried on its author alone, and can still be thrown away', async () => {
    const id = await draft({ mail: true });
    const { occurrenceId } = await sendTest(db, coordinator, id, key());
    await expandNow(db, occurrenceId);
    const reached = await rows<{ id: number; method: string }>(
      db,
      'SELECT person_id AS id, method FROM deliveries WHERE occurrence_id = ? ORDER BY method',
      [occurrenceId],
    );
    expect(reached).toEqual([
      { id: 1, method: 'inbox' },
      { id: 1, method: 'mail' },
    ]);
    const { discardDraft } = await import('../../src/server/announcements/service.ts');
    await discardDraft(db, coordinator, id);
    expect(await countOf(db, 'FROM announcements WHERE id = ?', [id])).toBe(0);
  });
});

it('a series numbers its issues, each once however many are confirmed at a time', async () => {
  const frame = {
    name: 'The Bulletin',
    banner: null,
    heading: 'No. {number}: ',
    byline: 'the desk',
    categories: ['News'],
  };
  const seriesId = await makeSeries(db, coordinator, frame);
  await expect(makeSeries(db, coordinator, frame)).rejects.toMatchObject({ errors: [{ field: 'name' }] });
  const ids = await Promise.all(
    Array.from({ length: 6 }, () =>
      draft({}, coordinator, { title: 'No. {number}: seeds', issue: { seriesId, category: 'News' } }),
    ),
  );
  await Promise.all(ids.map((id) => confirmSend(db, coordinator, id, { revision: 1 }, key())));
  const { issues, series } = await openSeries(db, coordinator, seriesId, 'News');
  expect(issues.map((issue) => issue.title).sort()).toEqual([1, 2, 3, 4, 5, 6].map((n) => `No. ${n}: seeds`));
  expect(series.nextNumber).toBe(7);
  const next = await openAnnouncement(db, coordinator, await nextIssue(db, coordinator, seriesId));
  expect(next.content).toMatchObject({
    title: 'No. {number}: ',
    byline: 'the desk',
    issue: { category: 'News' },
  });
  expect(next.plan.audience).toEqual(toGroups([group]));
});

it('linked contacts are copied in by mail, once, and nobody else’s', async () => {
  await db('people').insert([
    {
      id: 40,
      name: 'A mother',
      mail: 'mother@test.example',
      zone: 'UTC',
      joined_on: '2024-01-01',
      linked_to: 5,
      relation: 'mother',
    },
    { id: 41, name: 'No address', mail: null, zone: 'UTC', joined_on: '2024-01-01', linked_to: 5 },
    {
      id: 42,
      name: 'Elsewhere',
      mail: 'else@test.example',
      zone: 'UTC',
      joined_on: '2024-01-01',
      linked_to: 9,
    },
  ]);
  const id = await draft({ contacts: true });
  const { occurrenceId } = await confirmSend(db, coordinator, id, { revision: 1 }, key());
  await expandNow(db, occurrenceId);
  expect(
    await countOf(db, 'FROM deliveries WHERE occurrence_id = ? AND person_id IN (40, 41, 42)', [
      occurrenceId,
    ]),
  ).toBe(1);
  expect(
    await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND person_id = 40 AND method = 'mail'", [
      occurrenceId,
    ]),
  ).toBe(1);
});

describe('uploads', () => {
  const own = { actor: coordinator, signed: null, draft: null };
  const png = (width: number, height: number) =>
    sharp({ create: { width, height, channels: 3, background: '#1c6b60' } })
      .png()
      .toBuffer();

  it('keeps an image and cuts it for its place around the focal point', async () => {
    const kept = await keepImage(db, coordinator, await png(900, 600), '../../seeds.png');
    expect(kept).toMatchObject({ width: 900, height: 600 });
    const wide = await serveUpload(db, own, kept.key, 'wide-10-90.webp');
    expect(await sharp(wide.bytes).metadata()).toMatchObject({ format: 'webp', width: 900, height: 506 });
    const beside = await serveUpload(db, own, kept.key, 'beside-50-50.jpg');
    expect(await sharp(beside.bytes).metadata()).toMatchObject({ format: 'jpeg', width: 480, height: 480 });
    await expect(serveUpload(db, own, 'x'.repeat(22), 'whole.webp')).rejects.toMatchObject({ status: 404 });
  });

  it('refuses what is no image, carries script, is damaged, or unpacks to too much', async () => {
    const refused = (bytes: Buffer, as: 'image' | 'file' = 'image') =>
      expect((as === 'image' ? keepImage : keepFile)(db, coordinator, bytes, 'a.png')).rejects;
    await refused(
      Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>'),
    ).toThrow(/not an image/);
    await refused(Buffer.from('MZ this is a program')).toThrow(/not an image/);
    await refused((await png(300, 300)).subarray(0, 120)).toThrow(/damaged/);
    await refused(Buffer.alloc(0)).toThrow(/empty/);
    await refused(Buffer.alloc(MOST_UPLOAD + 1)).toThrow(/more than 10.0 MB/);
    // A picture bomb: 100 million pixels of one colour in a small file.
    await refused(await png(10_000, 10_000)).toThrow(/50 million pixels|too large/);
    await refused(Buffer.from('<html><script>alert(1)</script>'), 'file').toThrow(/cannot be attached/);
    // A member's post may have an image too; how many they may keep is tested with the boards.
    expect((await keepImage(db, member, await png(10, 10), 'a.png')).width).toBe(10);
  });

  it('keeps what is attached under a tidy name, told by its bytes', async () => {
    const file = await keepFile(db, coordinator, Buffer.from('a;b\n1;2\n'), 'C:\\folder\\read"ings.csv');
    expect(file).toMatchObject({ name: 'readings.csv', mime: 'text/csv', bytes: 8 });
    const served = await serveUpload(db, own, file.key, 'anything');
    expect(served).toMatchObject({ mime: 'text/csv', name: 'readings.csv' });
    // A picture that calls itself a text is kept as the picture it is.
    expect((await keepFile(db, coordinator, await png(8, 8), 'notes.txt')).mime).toBe('image/png');
  });

  it('serves an image in the density asked for, and never larger than it is', async () => {
    const kept = await keepImage(db, coordinator, await png(1600, 300), 'banner.png');
    const widthOf = async (as: string): Promise<number> =>
      (await sharp((await serveUpload(db, own, kept.key, as)).bytes).metadata()).width;
    expect(await widthOf('whole@1.webp')).toBe(640);
    expect(await widthOf('whole.webp')).toBe(1280);
    expect(await widthOf('whole@3.webp')).toBe(1600);
    expect(await widthOf('wide-50-50@3.webp')).toBe(533);
    expect(await widthOf('beside-50-50@1.webp')).toBe(240);
  });

  it('keeps a video in parts and gives any part of it, and takes only what browsers play', async () => {
    const bytes = Buffer.alloc(2 * PART_BYTES + 500_000);
    for (let i = 0; i < bytes.length; i += 997) bytes[i] = i % 251;
    Buffer.from('0000001866747970', 'hex').copy(bytes);
    Buffer.from('mp42\0\0\0\0mp42isom').copy(bytes, 8);
    const kept = await keepVideo(db, coordinator, bytes, 'tour.mp4');
    expect(kept).toMatchObject({ mime: 'video/mp4', bytes: bytes.length });
    const served = await serveUpload(db, own, kept.key, 'video.mp4');
    expect(served).toMatchObject({ mime: 'video/mp4', name: null, size: bytes.length });
    for (const [from, to] of [
      [0, 9],
      [PART_BYTES - 3, PART_BYTES + 3],
      [PART_BYTES, 2 * PART_BYTES - 1],
      [10, bytes.length - 1],
      [bytes.length - 1, bytes.length - 1],
    ] as const)
      expect((await readPart(db, kept.key, from, to)).equals(bytes.subarray(from, to + 1))).toBe(true);
    await expect(keepVideo(db, member, bytes, 'tour.mp4')).rejects.toMatchObject({ status: 403 });
    await expect(keepVideo(db, coordinator, await png(9, 9), 'tour.mp4')).rejects.toThrow(/not a video/);

    const captions = 'WEBVTT\n\n00:00.000 --> 00:02.000\nHere is the door.\n';
    const { key: vtt } = await keepCaptions(db, coordinator, Buffer.from(captions), 'tour.vtt');
    expect(await serveUpload(db, own, vtt, 'captions.vtt')).toMatchObject({ mime: 'text/vtt', name: null });
    for (const wrong of ['', 'WEBVTTX\n-->', '1\n00:00:00,000 --> 00:00:02,000\nHello', '<script>'])
      await expect(keepCaptions(db, coordinator, Buffer.from(wrong), 'a.vtt')).rejects.toMatchObject({
        status: 422,
      });
    // Captions of somebody else are no more theirs to use than their images.
    await expect(requireOwnUploads(db, editor, { video: { key: 'x', captions: vtt } })).rejects.toMatchObject(
      { status: 422 },
    );
  });
});

it('an event goes into calendars, and sign-ups are told by whose link they came', async () => {
  const nowMs = await databaseNow(db);
  const wall = wallAt(nowMs + 3 * 86_400_000, 'Asia/Kathmandu');
  const id = await draft({}, coordinator, {
    event: { wall, zone: 'Asia/Kathmandu', minutes: 90, place: 'The vault; room 2', link: '', signUp: true },
  });
  const { occurrenceId } = await confirmSend(db, coordinator, id, { revision: 1 }, key());
  await expandNow(db, occurrenceId);
  const { calendarOf } = await import('../../src/server/sign-ups/service.ts');
  const parsed = new ICAL.Component(
    ICAL.parse((await calendarOf(db, occurrenceId, 'bell.test')) ?? '') as unknown[],
  );
  const event = new ICAL.Event(parsed.getFirstSubcomponent('vevent') ?? undefined);
  expect(wallAt(event.startDate.toJSDate().getTime(), 'Asia/Kathmandu')).toBe(wall);
  expect(event.duration.toSeconds()).toBe(90 * 60);
  expect(event.location).toBe('The vault; room 2');

  const token = signLink(SECRET, { purpose: 'event', occurrenceId, personId: 6 }, nowMs);
  const invitation = await openInvitation(db, SECRET, token);
  if (invitation.state !== 'good') throw new Error(invitation.state);
  await signUp(db, invitation, { name: 'Guest', mail: 'Guest@visitors.example', zone: null });
  await signUp(db, invitation, { name: 'Guest again', mail: 'guest@visitors.example', zone: null });
  expect(await signUpsBySharer(db, occurrenceId)).toEqual([{ sharedBy: 'Person 00006', n: 1 }]);
  expect((await openInvitation(db, SECRET, token.replace(/^e/, 'a'))).state).toBe('altered');
  const acknowledge = signLink(SECRET, { purpose: 'acknowledge', occurrenceId, personId: 6 }, nowMs);
  expect((await openInvitation(db, SECRET, acknowledge)).state).toBe('altered');
});

it('the feed of what is planned is read by its key alone, and a new key ends the old', async () => {
  const old = await newFeedKey(db, coordinator);
  const feed = await plannedFeed(db, old, 'https://bell.test');
  const events = new ICAL.Component(ICAL.parse(feed) as unknown[]).getAllSubcomponents('vevent');
  expect(events.length).toBeGreaterThan(3);
  expect(
    await countOf(db, 'FROM people WHERE calendar_key = ?', [createHash('sha256').update(old).digest()]),
  ).toBe(1);
  await newFeedKey(db, coordinator);
  await expect(plannedFeed(db, old, 'https://bell.test')).rejects.toMatchObject({ status: 404 });
  await expect(newFeedKey(db, member)).rejects.toMatchObject({ status: 403 });
});

it('an audience is kept under a name, once, and forgotten by its author or a coordinator', async () => {
  const kept = await saveAudience(db, editor, { name: 'Mine', audience: { kind: 'group', id: group } });
  await expect(
    saveAudience(db, coordinator, { name: 'mine', audience: { kind: 'everyone' } }),
  ).rejects.toMatchObject({
    errors: [{ field: 'name' }],
  });
  const id = kept[0]?.id ?? 0;
  await expect(forgetAudience(db, { ...editor, id: 99 }, id)).rejects.toMatchObject({ status: 404 });
  await forgetAudience(db, editor, id);
  expect(await countOf(db, 'FROM saved_audiences')).toBe(0);
});

describe('a draft in several hands', () => {
  it('says who else has it open, and who has closed it', async () => {
    const id = await draft();
    expect(await sayOpen(db, coordinator, id)).toEqual({ others: [] });
    expect((await sayOpen(db, second, id)).others).toHaveLength(1);
    await sayClosed(db, coordinator, id);
    expect(await sayOpen(db, second, id)).toEqual({ others: [] });
    // A page that was killed says nothing, and is forgotten.
    await sayOpen(db, coordinator, id);
    await db('draft_openings')
      .where({ person_id: coordinator.id })
      .update({ seen_at: new Date(0) });
    expect(await sayOpen(db, second, id)).toEqual({ others: [] });
    await expect(sayOpen(db, member, id)).rejects.toMatchObject({ status: 404 });
  });

  it('is shared for comments with somebody at the desk, who is told, and no longer', async () => {
    const id = await draft({ audience: { kind: 'everyone' } });
    await expect(openAnnouncement(db, editor, id)).rejects.toMatchObject({ status: 404 });
    await share(db, coordinator, id, { personId: editor.id, shared: true });
    await share(db, coordinator, id, { personId: editor.id, shared: true });
    await followAll(db);
    expect(
      await countOf(db, 'FROM notices WHERE person_id = ? AND about = ?', [editor.id, `shared:${id}`]),
    ).toBe(1);
    await comment(db, editor, id, { text: 'Say which road.', mentions: [] });
    await expect(share(db, coordinator, id, { personId: member.id, shared: true })).rejects.toMatchObject({
      status: 422,
      errors: [{ field: 'personId' }],
    });
    const other = await draft({ audience: { kind: 'everyone' } });
    await share(db, coordinator, other, { personId: editor.id, shared: true });
    expect(await share(db, coordinator, other, { personId: editor.id, shared: false })).toEqual([]);
    await expect(openAnnouncement(db, editor, other)).rejects.toMatchObject({ status: 404 });
  });

  it('is handed on to somebody by name, who is told and is the one whose list it stands on', async () => {
    await setReach(db, editor.id, [group]);
    const id = await draft();
    expect((await reviewers(db, coordinator, id)).map((person) => person.id)).toEqual(
      expect.arrayContaining([editor.id, second.id]),
    );
    const handOn = (askId: number): Promise<void> =>
      review(db, coordinator, id, { step: 'hand on', revision: 1, askId });
    await expect(handOn(coordinator.id)).rejects.toMatchObject({ errors: [{ field: 'askId' }] });
    await expect(handOn(member.id)).rejects.toMatchObject({ status: 422 });
    await handOn(editor.id);
    await followAll(db);
    expect(
      await countOf(db, "FROM notices WHERE person_id = ? AND path = ? AND kind = 'mention'", [
        editor.id,
        `/write/${id}`,
      ]),
    ).toBe(1);
    const waits = async (actor: Actor): Promise<boolean> =>
      (await listForReview(db, actor)).some((each) => each.id === id);
    expect([await waits(editor), await waits(second)]).toEqual([true, false]);
    // Whoever may clear it still may: they see it among the drafts.
    await review(db, second, id, { step: 'clear', revision: 1 });
  });
});
