import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { USUAL_CHASE } from '../../src/core/asks/chase.ts';
import type { Block } from '../../src/core/content/document.ts';
import { plainSection } from '../../src/core/content/section.ts';
import type { Plan } from '../../src/core/plan/plan.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { openAnnouncement } from '../../src/server/announcements/service.ts';
import { insertAnnouncement, saveRevision } from '../../src/server/announcements/store.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import {
  changeState,
  leaveUnchanged,
  move,
  openForChange,
  takeBack,
} from '../../src/server/sends/changing.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { occurrenceById } from '../../src/server/sends/occurrenceStore.ts';
import { Problem } from '../../src/server/problem.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  countOf,
  freshDatabase,
  plan,
  refusal,
  sendNow,
  toGroups,
} from './world.ts';

const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;
let db: Database;
let nowMs: number;
let here: number[];
let keys = 0;
beforeAll(async () => {
  ({ db } = await freshDatabase('send_changes'));
  here = await addPeople(db, 12, 1);
  nowMs = await databaseNow(db);
});
afterAll(() => db.destroy());

async function begin(part: Partial<Plan>, text: Parameters<typeof content>[0] = {}): Promise<number> {
  const id = await insertAnnouncement(db, coordinator.id, content(text), plan(part), 'draft');
  return (await confirmSend(db, coordinator, id, { revision: 1 }, `changes-key-${++keys}`)).occurrenceId;
}
const inDays = (days: number): string => wallAt(nowMs + days * DAY_MS, 'UTC').replace(/T.*/, 'T09:00');
const once = (days: number): Plan['timing'] => ({ kind: 'at', wall: inDays(days), zone: 'UTC' });
const daily = (): Plan['timing'] => ({
  kind: 'recurring',
  start: inDays(2),
  zone: 'UTC',
  rule: { ...WEEKLY, freq: 'daily' },
  passed: 'not',
});
const chased = acknowledgement({ chase: { ...USUAL_CHASE, hours: 24, every: 24, most: 2 } });
const chasesOf = (occurrenceId: number) =>
  rows<{ id: number; dueMs: number; state: string }>(
    db,
    `SELECT id, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', due_at) DIV 1000 AS dueMs, state FROM occurrences WHERE chases = ? ORDER BY id`,
    [occurrenceId],
  );
const toldOf = async (work: Promise<unknown>): Promise<string> => (await refusal(work)).message;

describe('what goes out once', () => {
  it('is set to another time with its chases, and to none at which it could not go or its deadline were over', async () => {
    const deadline = { wall: inDays(9), zone: 'UTC' };
    const id = await begin({ timing: once(3), ask: { ...chased, deadline } });
    const before = await chasesOf(id);
    const { dueMs } = await move(db, coordinator, id, { wall: inDays(4), zone: 'UTC' });
    expect(wallAt(dueMs, 'UTC')).toBe(inDays(4));
    const after = (await chasesOf(id)).filter(({ state }) => state !== 'recalled');
    expect(after.map((each) => each.dueMs)).toEqual(
      before.filter(({ state }) => state !== 'recalled').map((each) => each.dueMs + DAY_MS),
    );
    const past = await refusal(move(db, coordinator, id, { wall: '2020-01-01T09:00', zone: 'UTC' }));
    expect([past.status, past.errors[0]?.field]).toEqual([422, 'timing.wall']);
    const late = await refusal(move(db, coordinator, id, { wall: inDays(10), zone: 'UTC' }));
    expect([late.status, late.errors[0]?.field.split('.')[0]]).toEqual([422, 'ask']);
    // Nothing of what was refused is kept.
    expect((await occurrenceById(db, id))?.dueMs).toBe(dueMs);
  });

  it('is not paused, nor changed in place; before it goes it is taken back, after that it is corrected', async () => {
    const id = await begin({ timing: once(3) });
    expect(await toldOf(changeState(db, coordinator, id, 'pause'))).toMatch(/Take it back instead/);
    expect(await toldOf(openForChange(db, coordinator, id, 'change'))).toMatch(/Take it back to change it/);
    expect(await toldOf(openForChange(db, coordinator, id, 'correct'))).toMatch(/It has not gone yet/);
    await takeBack(db, coordinator, id);
    expect(await toldOf(takeBack(db, coordinator, id))).toBe('It was taken back already.');
    expect(await toldOf(move(db, coordinator, id, { wall: inDays(4), zone: 'UTC' }))).toMatch(/too late/);
    const gone = await sendNow(db, {});
    await expandNow(db, gone);
    // The mail of it waits yet, and is all that can be taken back.
    expect(await takeBack(db, coordinator, gone)).toEqual({ announcementId: null });
    expect(await toldOf(takeBack(db, coordinator, gone))).toBe('It is too late: all of it has gone.');
    expect(await toldOf(move(db, coordinator, gone, { wall: inDays(4), zone: 'UTC' }))).toMatch(/too late/);
  });

  it('its chases go when its ask says: none is moved or opened by itself, each may be taken back', async () => {
    const id = await begin({ timing: once(3), ask: chased });
    const [first] = await chasesOf(id);
    expect(await toldOf(move(db, coordinator, first!.id, { wall: inDays(9), zone: 'UTC' }))).toMatch(
      /when its ask says/,
    );
    expect(await toldOf(openForChange(db, coordinator, first!.id, 'correct'))).toMatch(/It is a chase/);
    expect(await takeBack(db, coordinator, first!.id)).toEqual({ announcementId: null });
    expect((await chasesOf(id)).map(({ state }) => state)).toEqual(['recalled', 'scheduled']);
    expect((await occurrenceById(db, id))?.state).toBe('scheduled');
  });
});

describe('what recurs', () => {
  it('is paused, let go on, opened or ended by one of two who press at once; the other is told', async () => {
    const id = await begin({ timing: daily() });
    const { announcementId } = await openForChange(db, coordinator, id, 'change');
    await leaveUnchanged(db, coordinator, announcementId);
    const works: (() => Promise<unknown>)[] = [
      () => changeState(db, coordinator, id, 'pause'),
      () => changeState(db, coordinator, id, 'resume'),
      () => openForChange(db, coordinator, id, 'change'),
      () => leaveUnchanged(db, coordinator, announcementId),
      () => changeState(db, coordinator, id, 'end'),
    ];
    for (const work of works) {
      const both = await Promise.allSettled([work(), work()]);
      const refused = both.flatMap((each) => (each.status === 'rejected' ? [each.reason as unknown] : []));
      expect(refused).toHaveLength(1);
      expect(refused[0]).toBeInstanceOf(Problem);
      expect((refused[0] as Problem).status).toBe(409);
    }
    expect(await countOf(db, "FROM audit WHERE action = 'pause' AND subject = 'send'")).toBe(1);
    expect(await toldOf(openForChange(db, coordinator, id, 'change'))).toMatch(/It goes out once|ended/);
    expect(await toldOf(move(db, coordinator, id, { wall: inDays(4), zone: 'UTC' }))).toMatch(
      /too late|ended/,
    );
  });

  it('that is opened and left has the text and the plan it had; a correction that is left too', async () => {
    const id = await begin({ timing: daily() }, { title: 'Seeds come today' });
    await expandNow(db, id);
    for (const what of ['change', 'correct'] as const) {
      const { announcementId } = await openForChange(db, coordinator, id, what);
      const open = await openAnnouncement(db, coordinator, announcementId);
      expect([open.state, open.content.title]).toEqual(['draft', 'Seeds come today']);
      const other = {
        ...open.plan,
        audience: toGroups([await addGroup(db, `Few ${what}`, here.slice(0, 2))]),
      };
      await saveRevision(
        db,
        announcementId,
        open.revision,
        coordinator.id,
        { ...open.content, title: 'Seeds come never' },
        other,
      );
      await leaveUnchanged(db, coordinator, announcementId);
      const after = await openAnnouncement(db, coordinator, announcementId);
      expect([after.state, after.content.title, after.plan.audience]).toEqual([
        'committed',
        'Seeds come today',
        { kind: 'everyone' },
      ]);
    }
    expect((await occurrenceById(db, id))?.title).toBe('Seeds come today');
  });
});

describe('a text that is checked before it goes', () => {
  const says = (...inline: object[]): Parameters<typeof content>[0] => ({
    sections: [plainSection({ type: 'doc', content: [{ type: 'paragraph', content: inline } as Block] })],
  });
  const text = (words: string) => ({ type: 'text', text: words });
  const field = (name: string, fallback = '') => ({ type: 'field', attrs: { name, fallback } });
  const mention = (kind: 'person' | 'group', id: number, label: string) => ({
    type: 'mention',
    attrs: { kind, id, label },
  });

  it('names the field that would be empty for somebody, with whom, and the event whose time it tells', async () => {
    const [without] = await addPeople(db, 1, 1);
    await db('people').where({ id: without }).update({ station_id: null, name: 'Nowhere at All' });
    const refused = await refusal(
      begin({}, says(text('At '), field('station'), text(' at '), field('event time'))),
    );
    const of = (name: string) => refused.errors.find((each) => each.field === `fields.${name}`)?.detail;
    expect(of('station')).toMatch(/would be empty for .*Nowhere at All.*Say what stands there instead/);
    expect(of('event time')).toMatch(/there is none. Add the event/);
    await expect(begin({}, says(text('At '), field('station', 'your place')))).resolves.toBeGreaterThan(0);
    await db('people').where({ id: without }).update({ station_id: 1 });
  });

  it('warns of who is named and would not get it, and of how many of a group that is called', async () => {
    const few = await addGroup(db, 'Gate people', here.slice(0, 3));
    const many = await addGroup(db, 'Night people', here.slice(2, 8));
    const inside = mention('person', here[0]!, 'Person inside');
    const outside = mention('person', here[9]!, 'Person outside');
    const id = await insertAnnouncement(
      db,
      coordinator.id,
      content(says(inside, text(' and '), outside, text(' with '), mention('group', many, 'Night people'))),
      plan({ audience: toGroups([few]), timing: once(3) }),
      'draft',
    );
    const { occurrenceId } = await confirmSend(db, coordinator, id, { revision: 1 }, `changes-key-${++keys}`);
    const { warnings } = await move(db, coordinator, occurrenceId, { wall: inDays(4), zone: 'UTC' });
    const about = warnings.filter((warning) => /would not get it/.test(warning));
    expect(about).toHaveLength(2);
    expect(about.join(' ')).toContain('Person outside is mentioned and would not get it.');
    expect(about.join(' ')).toMatch(/Night people is called on, and 5 people of it would not get it/);
  });
});
