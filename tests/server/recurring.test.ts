import { correctionReach, publishCorrection } from '../../src/server/sends/correcting.ts';
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { USUAL_CHASE } from '../../src/core/asks/chase.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { resolveMoment, wallAt } from '../../src/core/timing/wallTime.ts';
import type { Plan } from '../../src/core/plan/plan.ts';
import { openAnnouncement } from '../../src/server/announcements/service.ts';
import { insertAnnouncement, saveRevision } from '../../src/server/announcements/store.ts';
import { databaseNow, rows, transact, type Database } from '../../src/server/database/connection.ts';
import { layAtRest } from '../../src/server/organisation/bringingStore.ts';
import { releaseHeld } from '../../src/server/sends/bucketStore.ts';
import { HORIZON_DAYS, planAhead } from '../../src/server/sends/planning.ts';
import { changeState, move, openForChange, takeBack } from '../../src/server/sends/changing.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { readItem } from '../../src/server/inbox/service.ts';
import { expandNow } from './expandNow.ts';
import { addPeople, content, coordinator, countOf, freshDatabase, plan, stateOf } from './world.ts';

const DAY_MS = 86_400_000;
let db: Database;
let nowMs: number;
let keys = 0;

beforeAll(async () => {
  ({ db } = await freshDatabase('recurring'));
  await addPeople(db, 12, 1);
  await addPeople(db, 8, 2);
  const [west = 0] = await addPeople(db, 1, 1);
  await db('people').where({ id: west }).update({ zone: 'Pacific/Honolulu' });
});
afterAll(() => db.destroy());
beforeEach(async () => {
  nowMs = await databaseNow(db);
});

async function begin(part: Partial<Plan>, text: Parameters<typeof content>[0] = {}): Promise<number> {
  const id = await insertAnnouncement(db, coordinator.id, content(text), plan(part), 'draft');
  return (await confirmSend(db, coordinator, id, { revision: 1 }, `recurring-key-${++keys}`)).occurrenceId;
}

const daily = (zone: string | null): Plan['timing'] => ({
  kind: 'recurring',
  // The day after tomorrow: from eight in the evening on, tomorrow's nine o'clock is over in Auckland.
  start: wallAt(nowMs + 2 * DAY_MS, 'UTC').replace(/T.*/, 'T09:00'),
  zone,
  rule: { ...WEEKLY, freq: 'daily' },
  passed: 'not',
});

const occurrencesOf = (occurrenceId: number) =>
  rows<{
    id: number;
    recursAt: string;
    state: string;
    dueMs: number;
    announcementId: number;
    sendId: number;
  }>(
    db,
    `SELECT o.id, o.recurs_at AS recursAt, o.state, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', o.due_at) DIV 1000 AS dueMs,
       s.announcement_id AS announcementId, s.id AS sendId
     FROM occurrences o JOIN sends s ON s.id = o.send_id
     WHERE o.send_id = (SELECT send_id FROM occurrences WHERE id = ?) ORDER BY o.recurs_at`,
    [occurrenceId],
  );

describe('what recurs', () => {
  it('is planned three weeks ahead, once, however many planners there are', async () => {
    const first = await begin({ timing: daily('UTC') });
    const planned = await occurrencesOf(first);
    // Every nine o'clock from the day after tomorrow on: one more of them is within three weeks when today's is over.
    const nine = resolveMoment({ wall: wallAt(nowMs, 'UTC').replace(/T.*/, 'T09:00'), zone: 'UTC' }).epochMs;
    const days = Array.from({ length: HORIZON_DAYS }, (_, day) => nine + (day + 1) * DAY_MS);
    const within = days.filter((at, day) => day >= 1 && at <= nowMs + HORIZON_DAYS * DAY_MS);
    expect(planned.map((each) => each.dueMs)).toEqual(within);
    await db.raw('UPDATE sends SET planned_until = NULL');
    await Promise.all([planAhead(db), planAhead(db), planAhead(db)]);
    expect((await occurrencesOf(first)).map((each) => each.id)).toEqual(planned.map((each) => each.id));
  });

  it('by readers’ clocks has a bucket a zone, and the board gets it once the last zone has it', async () => {
    const first = await begin({ timing: daily(null) });
    const [one] = await occurrencesOf(first);
    expect(await countOf(db, 'FROM buckets WHERE occurrence_id = ?', [one?.id])).toBe(4);
    expect(await countOf(db, 'FROM buckets WHERE occurrence_id = ? AND sweeps', [one?.id])).toBe(1);
    await expandNow(db, one?.id ?? 0);
    expect(await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'", [one?.id])).toBe(
      22,
    );
  });

  it('skips one, moves one, and leaves the others to their rule', async () => {
    const first = await begin({ timing: daily('UTC') });
    const [a, b, c] = await occurrencesOf(first);
    expect((await takeBack(db, coordinator, a?.id ?? 0)).announcementId).toBeNull();
    const wall = wallAt((b?.dueMs ?? 0) + 3 * 3_600_000, 'UTC');
    await move(db, coordinator, b?.id ?? 0, { wall, zone: 'UTC' });
    const after = await occurrencesOf(first);
    expect(after[0]?.state).toBe('recalled');
    expect(wallAt(after[1]?.dueMs ?? 0, 'UTC')).toBe(wall);
    expect(after[2]?.dueMs).toBe(c?.dueMs);
    // Planned again, the skipped one does not come back and the moved one stays moved.
    await db.raw('UPDATE sends SET planned_until = NULL');
    await planAhead(db);
    expect((await occurrencesOf(first)).slice(0, 3)).toEqual(after.slice(0, 3));
  });

  it('pauses, goes on without sending what it missed, and ends', async () => {
    const first = await begin({ timing: daily('UTC') });
    await changeState(db, coordinator, first, 'pause');
    expect(
      await countOf(
        db,
        "FROM buckets b JOIN occurrences o ON o.id = b.occurrence_id WHERE o.send_id = (SELECT send_id FROM occurrences WHERE id = ?) AND b.state = 'planned'",
        [first],
      ),
    ).toBe(0);
    await expect(changeState(db, coordinator, first, 'pause')).rejects.toThrow(/somebody was quicker/);
    // The first comes due while it is paused.
    await db.raw('UPDATE buckets SET due_at = NOW(3) - INTERVAL 1 MINUTE WHERE occurrence_id = ?', [first]);
    await changeState(db, coordinator, first, 'resume');
    expect(await stateOf(db, first)).toBe('recalled');
    const [, second] = await occurrencesOf(first);
    expect(second?.state).toBe('scheduled');
    await changeState(db, coordinator, first, 'end');
    expect((await occurrencesOf(first)).every((each) => each.state === 'recalled')).toBe(true);
    expect(await planAhead(db)).toBe(0);
  });

  it('holds, lets go and ends its chases with what they follow up, which are none of its occurrences', async () => {
    const ask = acknowledgement({ chase: { ...USUAL_CHASE, hours: 3, every: 3, most: 2 } });
    const first = await begin({ timing: daily('UTC'), ask });
    const own = await occurrencesOf(first);
    const chased = async () =>
      (
        await rows<{ state: string; bucket: string; sendId: number }>(
          db,
          `SELECT c.state, b.state AS bucket, c.send_id AS sendId FROM occurrences c JOIN occurrences o ON o.id = c.chases
             JOIN buckets b ON b.occurrence_id = c.id WHERE o.send_id = ? ORDER BY c.id`,
          [own[0]!.sendId],
        )
      ).filter(({ state }) => state !== 'recalled');
    const planned = await chased();
    expect(planned).toHaveLength(2 * own.length);
    expect([...new Set(planned.map(({ bucket }) => bucket))]).toEqual(['planned']);
    const [chases, ...further] = new Set(planned.map(({ sendId }) => sendId));
    expect(further).toEqual([]);
    expect(own.map(({ sendId }) => sendId)).not.toContain(chases);
    await changeState(db, coordinator, first, 'pause');
    expect([...new Set((await chased()).map(({ bucket }) => bucket))]).toEqual(['held']);
    await changeState(db, coordinator, first, 'resume');
    expect(await chased()).toEqual(planned);
    // One that follows up what has gone goes by the text and the ask of then, when both are changed.
    await expandNow(db, first);
    await openForChange(db, coordinator, first, 'change');
    const { announcementId } = own[0]!;
    const before = await openAnnouncement(db, coordinator, announcementId);
    const other = { ...before.plan, ask: { ...ask, chase: { ...ask.chase!, text: 'Only a word.' } } };
    await saveRevision(db, announcementId, before.revision, coordinator.id, before.content, other);
    await confirmSend(db, coordinator, announcementId, { revision: before.revision + 1 }, 'other-chases');
    const after = await chased();
    const sends = [...new Set(after.map(({ sendId }) => sendId))];
    expect(sends).toHaveLength(2);
    expect(after.filter(({ sendId }) => sendId === chases)).toHaveLength(2);
    const texts = await rows<{ body: string; kind: string }>(
      db,
      `SELECT v.body, s.kind FROM sends s JOIN announcement_versions v ON v.id = s.version_id WHERE s.chases = ? ORDER BY s.id`,
      [own[0]!.sendId],
    );
    expect(texts.map(({ kind, body }) => [kind, body.includes('Only a word.')])).toEqual([
      ['chase', false],
      ['chase', true],
    ]);
    await changeState(db, coordinator, first, 'end');
    expect(await chased()).toEqual([]);
  });

  it('is held with its chases when it is brought in at rest; what goes once is taken back with its own', async () => {
    const ask = acknowledgement({ chase: { ...USUAL_CHASE, hours: 3, every: 3, most: 1 } });
    const again = await begin({ timing: daily('UTC'), ask });
    const once = await begin({
      timing: { kind: 'at', wall: wallAt(nowMs + DAY_MS, 'UTC'), zone: 'UTC' },
      ask,
    });
    const states = async (trx: Database, id: number): Promise<unknown[]> =>
      rows(
        trx,
        `SELECT o.state, b.state AS bucket, COUNT(*) AS n FROM occurrences o JOIN buckets b ON b.occurrence_id = o.id
         WHERE o.id = ? OR o.chases = ? GROUP BY o.state, b.state`,
        [id, id],
      );
    const left = new Error('Nothing of it stays');
    await expect(
      transact(db, async (trx) => {
        await layAtRest(trx);
        expect(await states(trx, again)).toEqual([{ state: 'scheduled', bucket: 'held', n: 2 }]);
        expect(await states(trx, once)).toEqual([{ state: 'recalled', bucket: 'recalled', n: 2 }]);
        // Switched on again, it is chased as before.
        await releaseHeld(trx, (await occurrencesOf(again))[0]!.sendId);
        expect(await states(trx, again)).toEqual([{ state: 'scheduled', bucket: 'planned', n: 2 }]);
        throw left;
      }),
    ).rejects.toBe(left);
  });

  it('is changed from the next one on; what has gone keeps its text', async () => {
    const first = await begin({ timing: daily('UTC') }, { title: 'As it was' });
    await expandNow(db, first);
    const [gone] = await occurrencesOf(first);
    const byHand = (await occurrencesOf(first))[2];
    await move(db, coordinator, byHand?.id ?? 0, {
      wall: wallAt((byHand?.dueMs ?? 0) + 3 * 3_600_000, 'UTC'),
      zone: 'UTC',
    });
    const { announcementId } = await openForChange(db, coordinator, first, 'change');
    await expect(openForChange(db, coordinator, first, 'change')).rejects.toThrow(/being changed already/);
    const [row] = await rows<{ revision: number }>(db, 'SELECT revision FROM announcements WHERE id = ?', [
      announcementId,
    ]);
    const timing = daily('UTC');
    const changed = plan({
      timing: {
        ...timing,
        start: (timing as { start: string }).start.replace('T09:00', 'T11:15'),
      } as Plan['timing'],
    });
    await saveRevision(
      db,
      announcementId,
      row?.revision ?? 0,
      coordinator.id,
      content({ title: 'As it is' }),
      changed,
    );
    await confirmSend(
      db,
      coordinator,
      announcementId,
      { revision: (row?.revision ?? 0) + 1 },
      `recurring-key-${++keys}`,
    );
    const titles = await rows<{ id: number; title: string; recursAt: string; state: string }>(
      db,
      `SELECT o.id, v.title, o.recurs_at AS recursAt, o.state FROM occurrences o JOIN announcement_versions v ON v.id = o.version_id
       WHERE o.send_id = ? ORDER BY o.due_at`,
      [gone?.sendId],
    );
    expect(titles.find((each) => each.id === first)?.title).toBe('As it was');
    // What was moved by hand stays where it was put, and says what the others say.
    expect(titles.find((each) => each.id === byHand?.id)?.title).toBe('As it is');
    const next = titles.filter((each) => each.id !== first && each.id !== byHand?.id);
    expect(next.length).toBeGreaterThan(15);
    expect(next.every((each) => each.title === 'As it is' && each.recursAt.endsWith('T11:15'))).toBe(true);

    // What has gone is corrected from the text its readers have, and what recurs keeps its own.
    await openForChange(db, coordinator, first, 'correct');
    const opened = await openAnnouncement(db, coordinator, announcementId);
    expect(opened.content.title).toBe('As it was');
    await saveRevision(
      db,
      announcementId,
      opened.revision,
      coordinator.id,
      content({ title: 'As it should have been' }),
      opened.plan,
    );
    await publishCorrection(
      db,
      coordinator,
      announcementId,
      { revision: opened.revision + 1, note: 'One word', tell: 'nobody', askAgain: false },
      'correct-key-0',
    );
    expect((await openAnnouncement(db, coordinator, announcementId)).content.title).toBe('As it is');
    expect(
      await countOf(
        db,
        "FROM occurrences o JOIN announcement_versions v ON v.id = o.version_id WHERE o.id = ? AND v.title = 'As it should have been'",
        [first],
      ),
    ).toBe(1);
  });
});

describe('by readers’ clocks', () => {
  it('whoever changes zone on the day gets it once, and nobody is missed', async () => {
    const wall = wallAt(nowMs + 2 * DAY_MS, 'UTC').replace(/T.*/, 'T09:00');
    const id = await begin({ timing: { kind: 'local', wall, passed: 'at once' } });
    const buckets = await rows<{ id: number; zone: string }>(
      db,
      'SELECT id, zone FROM buckets WHERE occurrence_id = ? ORDER BY due_at',
      [id],
    );
    // Auckland comes first. One of its people flies to London before, and one of London's to Auckland after it had gone.
    const of = async (zone: string): Promise<number> =>
      (await rows<{ id: number }>(db, 'SELECT MIN(id) AS id FROM people WHERE zone = ?', [zone]))[0]?.id ?? 0;
    const leavesEarly = await of('Pacific/Auckland');
    const arrivesLate = await of('Europe/London');
    await db('people').where({ id: leavesEarly }).update({ zone: 'Europe/London' });
    await db.raw(
      "UPDATE buckets SET state = 'recalled' WHERE occurrence_id = ? AND zone <> 'Pacific/Auckland'",
      [id],
    );
    await expandNow(db, id);
    await db.raw("UPDATE buckets SET state = 'planned' WHERE occurrence_id = ? AND state = 'recalled'", [id]);
    await db('people').where({ id: arrivesLate }).update({ zone: 'Pacific/Auckland' });
    await db.raw("UPDATE occurrences SET state = 'going out' WHERE id = ?", [id]);
    await expandNow(db, id);
    expect(buckets).toHaveLength(4);
    expect(await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'", [id])).toBe(22);
    await db('people').where({ id: leavesEarly }).update({ zone: 'Pacific/Auckland' });
    await db('people').where({ id: arrivesLate }).update({ zone: 'Europe/London' });
  });

  it('those for whom the hour has passed get it at once, a day later, or not, as was chosen', async () => {
    const wall = wallAt(nowMs - 30 * 60_000, 'UTC');
    const outcome = async (passed: 'at once' | 'next day' | 'not'): Promise<[string, string][]> => {
      const id = await begin({ timing: { kind: 'local', wall, passed } });
      return (
        await rows<{ zone: string; fate: string; state: string }>(
          db,
          'SELECT zone, fate, state FROM buckets WHERE occurrence_id = ? ORDER BY zone',
          [id],
        )
      ).map((row) => [row.fate, row.state]);
    };
    const auckland = 1;
    expect((await outcome('not'))[auckland]).toEqual(['not', 'skipped']);
    expect((await outcome('at once'))[auckland]).toEqual(['at once', 'planned']);
    expect((await outcome('next day'))[auckland]).toEqual(['next day', 'planned']);
    const id = await begin({ timing: { kind: 'local', wall, passed: 'not' } });
    await expandNow(db, id);
    const reached = await rows<{ zone: string }>(
      db,
      'SELECT DISTINCT p.zone FROM deliveries d JOIN people p ON p.id = d.person_id WHERE d.occurrence_id = ?',
      [id],
    );
    expect(reached.map((row) => row.zone)).toEqual(['Pacific/Honolulu']);
  });

  it('the rest can be taken back once it has begun, and what has gone stays', async () => {
    const wall = wallAt(nowMs + 3 * DAY_MS, 'UTC').replace(/T.*/, 'T09:00');
    const id = await begin({ timing: { kind: 'local', wall, passed: 'not' } });
    await db.raw("UPDATE buckets SET state = 'held' WHERE occurrence_id = ? AND zone <> 'Pacific/Auckland'", [
      id,
    ]);
    await expandNow(db, id);
    await db.raw("UPDATE buckets SET state = 'planned' WHERE occurrence_id = ? AND state = 'held'", [id]);
    expect((await takeBack(db, coordinator, id)).announcementId).toBeNull();
    expect(await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'", [id])).toBe(8);
    expect(await countOf(db, "FROM buckets WHERE occurrence_id = ? AND state = 'planned'", [id])).toBe(0);
  });
});

it('what has gone is corrected with a note, and those who read it are told if wished', async () => {
  vi.stubEnv('CLEAR_BELL_URL', 'https://bell.example');
  const id = await begin({ timing: { kind: 'now' } }, { title: 'Meet at eihgt' });
  await expandNow(db, id);
  await readItem(db, 5, id);
  const { announcementId } = await openForChange(db, coordinator, id, 'correct');
  const [row] = await rows<{ revision: number; plan: string }>(
    db,
    'SELECT revision, plan FROM announcements WHERE id = ?',
    [announcementId],
  );
  await saveRevision(
    db,
    announcementId,
    row?.revision ?? 0,
    coordinator.id,
    content({ title: 'Meet at eight' }),
    plan({ timing: { kind: 'now' } }),
  );
  const { everybody, opened } = await correctionReach(db, coordinator, announcementId);
  const got = await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'", [id]);
  expect({ everybody, opened }).toEqual({ everybody: got, opened: 1 });
  expect(got).toBeGreaterThan(5);
  const { told } = await publishCorrection(
    db,
    coordinator,
    announcementId,
    { revision: (row?.revision ?? 0) + 1, note: 'The hour was misspelt', tell: 'opened', askAgain: false },
    'correct-key-1',
  );
  const read = await readItem(db, 6, id);
  expect(read.title).toBe('Meet at eight');
  expect(read.corrected?.note).toBe('The hour was misspelt');
  await expandNow(db, told ?? 0);
  const notified = await rows<{ personId: number }>(
    db,
    "SELECT person_id AS personId FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'",
    [told],
  );
  // The two who had opened it: one before, and one meanwhile.
  expect(notified.map((each) => each.personId).sort()).toEqual([5, 6]);
  // They get the new text itself, under its title, with what changed above it and the way to where it stands.
  const letter = await readItem(db, 5, told ?? 0);
  expect(letter.title).toBe('Corrected: Meet at eight');
  const written = JSON.stringify(letter);
  expect(written).toContain('The hour was misspelt');
  expect(written).toContain(`https://bell.example/for-me/${id}`);
});

it('a correction that everybody is told reaches all who got it, and one that nobody is told reaches none', async () => {
  const id = await begin({ timing: { kind: 'now' } }, { title: 'Meet at eihgt' });
  await expandNow(db, id);
  const got = await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'", [id]);
  for (const tell of ['nobody', 'everybody'] as const) {
    const { announcementId } = await openForChange(db, coordinator, id, 'correct');
    const [row] = await rows<{ revision: number }>(db, 'SELECT revision FROM announcements WHERE id = ?', [
      announcementId,
    ]);
    const { told } = await publishCorrection(
      db,
      coordinator,
      announcementId,
      { revision: row?.revision ?? 0, note: 'The hour was misspelt', tell, askAgain: false },
      `correct-key-${tell}`,
    );
    if (told === null) expect(tell).toBe('nobody');
    else {
      await expandNow(db, told);
      const reached = await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'", [
        told,
      ]);
      expect({ tell, reached }).toEqual({ tell: 'everybody', reached: got });
    }
  }
});
