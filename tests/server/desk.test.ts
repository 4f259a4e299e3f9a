import { publishCorrection } from '../../src/server/sends/correcting.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { When } from '../../src/core/automation/automation.ts';
import { switchAutomation } from '../../src/server/automations/service.ts';
import { lookAtGroup } from '../../src/server/automations/watching.ts';
import { actIn, putToWork, says } from './automating.ts';
import type { Doc } from '../../src/core/content/document.ts';
import { plainSection } from '../../src/core/content/section.ts';
import type { Plan } from '../../src/core/plan/plan.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import type { Session } from '../../src/server/accounts/service.ts';
import { after, deliveriesCsv } from '../../src/server/after/service.ts';
import { openAnnouncement } from '../../src/server/announcements/service.ts';
import { insertAnnouncement, saveRevision } from '../../src/server/announcements/store.ts';
import { acknowledge } from '../../src/server/asks/service.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { openBoard } from '../../src/server/boards/service.ts';
import { changeBoardSettings } from '../../src/server/boards/settings.ts';
import { rehearse } from '../../src/server/rehearsal/service.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { deskToday, strain } from '../../src/server/desk/service.ts';
import { readItem } from '../../src/server/inbox/service.ts';
import { noteBackup } from '../../src/server/operating/figuresStore.ts';
import { runSheet } from '../../src/server/sends/runSheet.ts';
import { move, openForChange } from '../../src/server/sends/changing.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { makeSeries } from '../../src/server/series/service.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  freshDatabase,
  plan,
  sendNow,
  toGroups,
} from './world.ts';

const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;
const session: Session = { actor: coordinator, name: 'Maud', zone: 'UTC', owns: false };
let db: Database;
let nowMs: number;
let keys = 0;

beforeAll(async () => {
  ({ db } = await freshDatabase('desk'));
  await addPeople(db, 20, 1);
  await addPeople(db, 10, 2);
  nowMs = await databaseNow(db);
});
afterAll(() => db.destroy());

async function begin(part: Partial<Plan>, text: Parameters<typeof content>[0] = {}): Promise<number> {
  const id = await insertAnnouncement(db, coordinator.id, content(text), plan(part), 'draft');
  return (await confirmSend(db, coordinator, id, { revision: 1 }, `desk-key-${++keys}`)).occurrenceId;
}

const text = (words: string): Doc => ({
  type: 'doc',
  content: [{ type: 'paragraph', content: [{ type: 'text', text: words }] }],
});

it('a text of more sections than a board takes stands there in parts, the first above', async () => {
  const board = await insertBoard(db, { name: 'News', about: 'News.', groupId: null, posting: 'moderators' });
  await changeBoardSettings(db, coordinator, board, { sectionLimit: 2 });
  const member = {
    id: 5,
    role: 'member' as const,
    moderates: new Set<number>(),
    mayReach: new Set<number>(),
  };
  await expect(changeBoardSettings(db, member, board, { sectionLimit: 3 })).rejects.toMatchObject({
    status: 403,
  });
  const sections = ['one', 'two', 'three', 'four', 'five'].map((words, i) =>
    plainSection(text(words), `s${i + 1}`),
  );
  const id = await begin(
    { boards: [board] },
    { sections, button: { label: 'Go', url: 'https://a.example' } },
  );
  await expandNow(db, id);
  await expandNow(db, id);
  const { posts } = await openBoard(db, coordinator, board);
  expect(
    posts.map((post) => [post.part, post.html.match(/\b(one|two|three|four|five)\b/g), post.button !== null]),
  ).toEqual([
    [{ number: 1, of: 3 }, ['one', 'two'], false],
    [{ number: 2, of: 3 }, ['three', 'four'], false],
    [{ number: 3, of: 3 }, ['five'], true],
  ]);
  // The board's limit changes: what stands there stands as it was posted. Corrected, it takes the parts it needs.
  await changeBoardSettings(db, coordinator, board, { sectionLimit: 9 });
  expect((await openBoard(db, coordinator, board)).posts.map((post) => post.part?.of)).toEqual([3, 3, 3]);
  const correct = async (words: string[]): Promise<(RegExpMatchArray | null)[]> => {
    const { announcementId } = await openForChange(db, coordinator, id, 'correct');
    const { revision, plan: planned } = await openAnnouncement(db, coordinator, announcementId);
    const corrected = content({ sections: words.map((word, i) => plainSection(text(word), `s${i + 1}`)) });
    await saveRevision(db, announcementId, revision, coordinator.id, corrected, planned);
    await publishCorrection(
      db,
      coordinator,
      announcementId,
      { revision: revision + 1, note: 'Other sections', tell: 'nobody', askAgain: false },
      `desk-correct-${words.length}`,
    );
    return (await openBoard(db, coordinator, board)).posts.map((post) => post.html.match(/\b(w\d)\b/g));
  };
  expect(await correct(['w1', 'w2', 'w3'])).toEqual([['w1', 'w2'], ['w3']]);
  expect(await correct(['w1', 'w2', 'w3', 'w4', 'w5', 'w6', 'w7'])).toEqual([
    ['w1', 'w2'],
    ['w3', 'w4'],
    ['w5', 'w6'],
    ['w7'],
  ]);
});

it('what strains people is seen: things close together, and days that are too full', async () => {
  const group = await addGroup(db, 'North ones', [2, 3, 4, 5]);
  const at = (hours: number): Plan['timing'] => ({
    kind: 'at',
    wall: wallAt(nowMs + 2 * DAY_MS, 'UTC').replace(/T.*/, `T${String(hours).padStart(2, '0')}:00`),
    zone: 'UTC',
  });
  const a = await begin({ timing: at(8) });
  const b = await begin({ audience: toGroups([group]), timing: at(9) });
  await begin({ audience: toGroups([group]), timing: at(14) });
  await begin({ audience: toGroups([group]), timing: at(20) });
  const from = nowMs + DAY_MS;
  const found = await strain(db, session, from, nowMs + 4 * DAY_MS);
  expect(found.clashes).toEqual([{ a, b, people: 4 }]);
  expect(found.days.map((day) => [day.most, day.over])).toEqual([[4, 4]]);
  // Moved away, nothing clashes; moved into the past, it is refused and stays.
  const wall = wallAt(nowMs + 2 * DAY_MS, 'UTC').replace(/T.*/, 'T11:30');
  await move(db, coordinator, b, { wall, zone: 'UTC' });
  expect((await strain(db, session, from, nowMs + 4 * DAY_MS)).clashes).toEqual([]);
  await expect(move(db, coordinator, b, { wall: '2020-01-01T09:00', zone: 'UTC' })).rejects.toMatchObject({
    errors: [{ field: 'timing.wall' }],
  });
  const row = (await runSheet(db, coordinator, from, nowMs + 4 * DAY_MS)).find(
    (each) => each.occurrenceId === b,
  );
  expect(wallAt(row?.dueMs ?? 0, 'UTC')).toBe(wall);
  expect(row?.sentence).toContain('at 11:30');
});

it('says what automations did since the evening before, to whoever they are for', async () => {
  const [two, three] = [8, 9];
  const group = await addGroup(db, 'Those who come', [two]);
  const tell = {
    to: { kind: 'person' as const },
    boards: [],
    outside: [],
    boardField: null,
    mail: false,
    otherwise: null,
  };
  const greets = await putToWork(
    db,
    { kind: 'joins', groupId: group },
    { content: says('Welcome', 'Come in.'), tell },
  );
  expect((await deskToday(db, session)).lately).toBeNull();
  await db('group_members').insert({ group_id: group, person_id: three });
  await lookAtGroup(db, group);
  await actIn(db);
  const [said] = await rows<{ id: number }>(
    db,
    `SELECT y.occurrence_id AS id FROM automation_sayings y JOIN automation_runs r ON r.id = y.run_id
     WHERE r.automation_id = ? AND y.occurrence_id IS NOT NULL`,
    [greets],
  );
  await expandNow(db, said!.id);
  expect((await deskToday(db, session)).lately).toMatchObject({
    ran: 1,
    told: 1,
    notFound: 0,
    failed: 0,
    paused: 0,
  });
  const editor = { ...coordinator, id: two, role: 'editor' as const };
  expect((await deskToday(db, { ...session, actor: editor })).lately).toBeNull();
  // What it did before that evening is no news.
  await db('automation_runs').update({ ended_at: db.raw('NOW(3) - INTERVAL 5 DAY') });
  expect((await deskToday(db, session)).lately).toBeNull();
});

it('the first screen of a coordinator says that there is no backup, or none of these days, and nothing where there is', async () => {
  const told = async (who = coordinator) =>
    (await deskToday(db, { ...session, actor: who })).outside.filter(({ path }) => path === '/running');
  expect(await told()).toEqual([
    {
      path: '/running',
      name: 'Backups',
      why: expect.stringMatching(/^No backup has been written/) as string,
    },
  ]);
  expect(await told({ ...coordinator, role: 'editor' })).toEqual([]);
  await noteBackup(db, { host: 'coast', file: 'of-monday.sql.gz', bytes: 10, tookMs: 5 });
  expect(await told()).toEqual([]);
  await db('backups').update({ written_at: db.raw('NOW(3) - INTERVAL 3 DAY') });
  expect((await told())[0]?.why).toMatch(/^The last backup is 3 days old/);
  await db('organisation')
    .insert({ id: 1, name: 'Of the demo', zone: 'UTC', demo: true })
    .onConflict('id')
    .merge();
  expect(await told()).toEqual([]);
});

it('what automations will say is seen as strain too, on the run sheet and before something is sent', async () => {
  const group = await addGroup(db, 'Keyholders of the south', [2, 3, 4]);
  const day = wallAt(nowMs + 5 * DAY_MS, 'UTC').slice(0, 10);
  const dayMs = Date.parse(`${day}T00:00:00Z`);
  const tell = (audience: Plan['audience']) => ({
    to: audience && { kind: 'audience' as const, audience },
    boards: [],
    outside: [],
    boardField: null,
    mail: false,
    otherwise: null,
  });
  const when = (hour: string): When => ({
    kind: 'schedule',
    start: `${day}T${hour}`,
    zone: 'UTC',
    rule: WEEKLY,
    sheetId: null,
  });
  const telling = { content: says('Keys', 'Bring them back.'), tell: tell(toGroups([group])) };
  await putToWork(db, when('09:00'), telling);
  await putToWork(db, when('16:00'), telling);
  const off = await putToWork(db, when('08:30'), telling);
  await switchAutomation(db, coordinator, off, false);
  const id = await begin({
    audience: toGroups([group]),
    timing: { kind: 'at', wall: `${day}T10:00`, zone: 'UTC' },
  });
  const { clashes, days } = await strain(db, session, dayMs, dayMs + DAY_MS);
  const lines = (await runSheet(db, coordinator, dayMs, dayMs + DAY_MS)).filter(
    (row) => row.automationId !== null,
  );
  expect(lines).toHaveLength(2);
  const [first, second] = lines.sort((one, other) => one.dueMs - other.dueMs);
  // The two automations lie seven hours apart; what is sent at ten comes an hour after the first.
  expect(clashes.map(({ a, b, people }) => [[a, b].sort(), people])).toEqual([
    [[id, first!.occurrenceId].sort(), 3],
  ]);
  expect(second!.occurrenceId).not.toBe(first!.occurrenceId);
  expect(days.map(({ most }) => most)).toEqual([3]);
  const draft = await insertAnnouncement(
    db,
    coordinator.id,
    content({ title: 'Another' }),
    plan({ audience: toGroups([group]), timing: { kind: 'at', wall: `${day}T15:00`, zone: 'UTC' } }),
    'draft',
  );
  const options = { links: false, publicUrl: 'http://localhost' };
  const found = await rehearse(db, { actor: coordinator, zone: 'UTC' }, draft, 2, options);
  expect(found.collisions.map(({ title, people }) => [title, people])).toEqual([['Of a test', 3]]);
  expect(found.load).toEqual([{ things: 4, people: 3 }]);
  // Whoever may not see it is told that something is there.
  await db('people').where({ id: 5 }).update({ role: 'editor' });
  await db('editor_reach').insert({ person_id: 5, group_id: group });
  const editor = { ...coordinator, id: 5, role: 'editor' as const, mayReach: new Set([group]) };
  const own = await insertAnnouncement(
    db,
    5,
    content({ title: 'Mine' }),
    plan({ audience: toGroups([group]), timing: { kind: 'at', wall: `${day}T15:00`, zone: 'UTC' } }),
    'draft',
  );
  const seen = await rehearse(db, { actor: editor, zone: 'UTC' }, own, 2, options);
  expect(seen.collisions.map(({ title }) => title)).toEqual(['Something another author sends']);
  expect((await strain(db, { ...session, actor: editor }, dayMs, dayMs + DAY_MS)).clashes).toEqual([]);
});

it('what recurs is seen beyond what is planned of it, as its rule gives it', async () => {
  const start = wallAt(nowMs + DAY_MS, 'UTC').replace(/T.*/, 'T06:00');
  const first = await begin(
    { timing: { kind: 'recurring', start, zone: 'UTC', rule: WEEKLY, passed: 'not' } },
    { title: 'Every week' },
  );
  const rows = async (fromDay: number, toDay: number) =>
    (await runSheet(db, coordinator, nowMs + fromDay * DAY_MS, nowMs + toDay * DAY_MS)).filter(
      (row) => row.title === 'Every week',
    );
  const far = await rows(60, 90);
  expect(far.length).toBeGreaterThanOrEqual(4);
  expect(far.every((row) => row.projectedFrom !== null && !row.movable)).toBe(true);
  // None is shown twice where what is planned ends and what is computed begins.
  const all = await rows(0, 31);
  const dues = all.map((row) => row.dueMs);
  expect(new Set(dues).size).toBe(dues.length);
  expect(dues.slice(1).every((due, i) => due - (dues[i] ?? 0) === 7 * DAY_MS)).toBe(true);
  expect(all[0]?.occurrenceId).toBe(first);
});

it('a plan whose group is gone or whose audience is empty is pointed out before it is due', async () => {
  const gone = await addGroup(db, 'To be deleted', [2]);
  const emptied = await addGroup(db, 'To be emptied', [3]);
  const timing: Plan['timing'] = { kind: 'at', wall: wallAt(nowMs + 5 * DAY_MS, 'UTC'), zone: 'UTC' };
  const first = await begin({ audience: toGroups([gone]), timing });
  const second = await begin({ audience: toGroups([emptied]), timing });
  await db('groups').where({ id: gone }).delete();
  await db('group_members').where({ group_id: emptied }).delete();
  const { hollow } = await deskToday(db, session);
  expect(hollow.map(({ occurrenceId, why }) => [occurrenceId, why])).toEqual([
    [first, 'A group in its plan no longer exists.'],
    [second, 'Nobody is in its audience any more.'],
  ]);
  // Due all the same, it fails with the reason and reaches nobody.
  await expandNow(db, second);
  const [row] = (await runSheet(db, coordinator, nowMs, nowMs + 6 * DAY_MS)).filter(
    (each) => each.occurrenceId === second,
  );
  expect(row).toMatchObject({ state: 'failed', failure: 'Nobody was in the audience when it was due.' });
});

it('afterwards its figures stand beside the issue before, and every delivery can be taken away as CSV', async () => {
  const seriesId = await makeSeries(db, coordinator, {
    name: 'Bulletin',
    banner: null,
    heading: '',
    byline: '',
    categories: [],
  });
  const issue = { seriesId, category: '' };
  const ask: Plan['ask'] = acknowledgement();
  const before = await sendNow(db, { ask }, { title: 'One', issue });
  await expandNow(db, before);
  await readItem(db, 2, before);
  await db.raw(
    'UPDATE occurrences SET due_at = due_at - INTERVAL 7 DAY, ends_at = ends_at - INTERVAL 7 DAY WHERE id = ?',
    [before],
  );
  await db.raw(
    'UPDATE deliveries SET due_at = due_at - INTERVAL 7 DAY, went_at = went_at - INTERVAL 7 DAY, read_at = IF(read_at IS NULL, NULL, due_at) WHERE occurrence_id = ?',
    [before],
  );
  const now = await sendNow(db, { ask }, { title: 'Two', issue });
  await expandNow(db, now);
  for (const person of [2, 3, 4]) await readItem(db, person, now);
  await acknowledge(db, 3, now, 'page');
  const found = await after(db, coordinator, now);
  expect(found.figures).toMatchObject({ title: 'Two', reached: 31, read: 3, asked: 31, answered: 1 });
  expect(found.before).toMatchObject({ title: 'One', reached: 31, read: 1 });
  expect(found.curve.at(-1)).toMatchObject({ delivered: 31, read: 3, answered: 1 });
  const csv = await new Response(await deliveriesCsv(db, coordinator, now)).text();
  expect(csv.trim().split('\r\n')).toHaveLength(1 + 31 + 28);
  const editor = {
    id: 9,
    role: 'editor' as const,
    moderates: new Set<number>(),
    mayReach: new Set<number>(),
  };
  await expect(after(db, editor, now)).rejects.toMatchObject({ status: 404 });
});
