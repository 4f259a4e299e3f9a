import { publishCorrection } from '../../src/server/sends/correcting.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { until } from '../../scripts/house/processes.ts';
import { withoutNames, type Asking } from '../../src/core/asks/ask.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { USUAL_CHASE } from '../../src/core/asks/chase.ts';
import { USUAL_QUESTIONS } from '../../src/core/asks/check-in/checkIn.ts';
import { EMPTY_POLL, type Poll } from '../../src/core/asks/poll/poll.ts';
import type { Plan } from '../../src/core/plan/plan.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { dateAt, wallAt } from '../../src/core/timing/wallTime.ts';
import type { Session } from '../../src/server/accounts/service.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { addOption, answer } from '../../src/server/asks/answering.ts';
import { openSecretPolls } from '../../src/server/asks/askStore.ts';
import { askBox } from '../../src/server/asks/boxes.ts';
import {
  checkInHistory,
  checkInPage,
  checkInThread,
  replyToCheckIn,
  unblockCheckIn,
} from '../../src/server/asks/check-in/checkIns.ts';
import { ballotsCsv, openResults } from '../../src/server/asks/results.ts';
import { acknowledge, closeByHand, listAsks, listRoll, openRoll } from '../../src/server/asks/service.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { appointOwner } from '../../src/server/groups/service.ts';
import { forMe } from '../../src/server/inbox/service.ts';
import { addAbsence, addHoliday, chooseWorkDays } from '../../src/server/people/workingService.ts';
import { rehearse, rehearsedPeople } from '../../src/server/rehearsal/service.ts';
import { chaseNow } from '../../src/server/sends/chaseNow.ts';
import { runSheet } from '../../src/server/sends/runSheet.ts';
import { openForChange, takeBack } from '../../src/server/sends/changing.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { chasesOf, insertChase } from '../../src/server/sends/chaseStore.ts';
import { occurrenceById } from '../../src/server/sends/occurrenceStore.ts';
import type { Engine } from '../../src/server/engine/engine.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  countOf,
  freshDatabase,
  mailHouse,
  makeDue,
  plan,
  reaches,
  SECRET,
  sendNow,
  startEngine,
  toGroups,
  type MailHouse,
  followAll,
} from './world.ts';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const session: Session = { actor: coordinator, name: 'Maud', zone: 'Europe/London', owns: false };
const common = { deadline: null, within: null, chase: null, joiners: false } as const;
const labels = (...words: string[]): Poll['options'] => words.map((label) => ({ label, at: null }));
const poll = (part: Partial<Poll>, ask: Partial<Asking> = {}): Extract<Asking, { kind: 'poll' }> => ({
  ...common,
  ...ask,
  kind: 'poll',
  poll: { ...EMPTY_POLL, question: 'Tea?', options: labels('Yes', 'No'), ...part },
});
const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });

let db: Database;
let mail: MailHouse;
let engine: Engine;
let people: number[];
let group: number;

beforeAll(async () => {
  ({ db } = await freshDatabase('asking'));
  people = [...(await addPeople(db, 20, 1)), ...(await addPeople(db, 10, 2))];
  group = await addGroup(db, 'Askers', people.slice(0, 25));
  mail = await mailHouse();
  engine = await startEngine(db, mail.url);
});
afterAll(async () => {
  await engine.stop();
  await mail.stop();
  await db.destroy();
});

const say = (
  personId: number,
  id: number,
  given: Parameters<typeof answer>[4],
  via: 'page' | 'mail' = 'page',
) => answer(db, SECRET, personId, id, given, via);
const box = (personId: number, id: number) => askBox(db, SECRET, { id: personId, zone: 'Europe/London' }, id);
async function ask(asking: Asking, part: Partial<Plan> = {}): Promise<number> {
  const id = await sendNow(db, { audience: toGroups([group]), ask: asking, mail: false, ...part });
  await reaches(db, id, 'sent');
  return id;
}
const tellings = async (about: string): Promise<{ personId: number; title: string; text: string }[]> => {
  await followAll(db);
  return rows(
    db,
    'SELECT person_id AS personId, title, text FROM notices WHERE about LIKE ? ORDER BY person_id',
    [about],
  );
};

it('the database tells of the same asks as core that they are without names, until they are closed', async () => {
  const asked: Asking[] = [
    acknowledgement(),
    poll({ anonymous: false }),
    poll({ anonymous: true }),
    poll({ anonymous: true, kind: 'several', options: labels('Tea', 'Coffee', 'Water') }),
    { ...common, kind: 'check-in', within: 8, questions: USUAL_QUESTIONS, digestOn: [] },
  ];
  const ids: number[] = [];
  for (const each of asked) ids.push(await ask(each));
  const secret = ids.filter((_, at) => withoutNames(asked[at]!));
  expect(secret).toHaveLength(2);
  expect((await openSecretPolls(db, ids)).sort((a, b) => a - b)).toEqual(secret);
  expect(await openSecretPolls(db, [])).toEqual([]);
  await closeByHand(db, coordinator, secret[0]!);
  expect(await openSecretPolls(db, ids)).toEqual(secret.slice(1));
});

/** Keeps mail of an occurrence waiting, so that none of it is on the wire while a test does something else. */
async function keepMailWaiting(occurrenceId: number, n: number): Promise<void> {
  const held = async (): Promise<boolean> => {
    await db.raw(
      "UPDATE deliveries SET try_at = NOW(3) + INTERVAL 1 HOUR WHERE occurrence_id = ? AND method = 'mail' AND state = 'waiting'",
      [occurrenceId],
    );
    return (
      (await countOf(
        db,
        "FROM deliveries WHERE occurrence_id = ? AND method = 'mail' AND state = 'waiting' AND try_at > NOW(3) + INTERVAL 30 MINUTE",
        [occurrenceId],
      )) === n
    );
  };
  expect(await until(held, 20_000)).toBe(true);
}
const letMailGo = (occurrenceId: number) =>
  db.raw(
    "UPDATE deliveries SET try_at = NOW(3) WHERE occurrence_id = ? AND method = 'mail' AND state = 'waiting'",
    [occurrenceId],
  );

describe('a poll', () => {
  it('counts each person once, however many answer in the same second and however they come', async () => {
    const id = await ask(poll({ kind: 'several', options: labels('A', 'B', 'C'), shown: 'always' }));
    await Promise.all([
      ...people.slice(0, 20).map((person, i) => say(person, id, { choices: [1 + (i % 3)] })),
      ...people.slice(0, 20).map((person, i) => say(person, id, { choices: [1 + (i % 3)] }, 'mail')),
    ]);
    const results = await openResults(db, session, id);
    expect(results.poll!.outcome).toMatchObject({
      voted: 20,
      counts: [
        { id: 1, n: 7 },
        { id: 2, n: 7 },
        { id: 3, n: 6 },
      ],
      leading: [1, 2],
    });
    expect((await openRoll(db, coordinator, id)).tally).toEqual({ asked: 25, answered: 20 });
    expect(await countOf(db, 'FROM ballots WHERE occurrence_id = ?', [id])).toBe(20);
    // Changed from two places at once: one of the two stands, whole.
    await Promise.all([
      say(people[0]!, id, { choices: [2, 3] }),
      say(people[0]!, id, { choices: [3] }, 'mail'),
    ]);
    const mine = (await box(people[0]!, id)).poll!.mine;
    expect([[2, 3], [3]]).toContainEqual(mine?.kind === 'choices' ? mine.choices : null);
    expect(await countOf(db, 'FROM ballots WHERE occurrence_id = ?', [id])).toBe(20);

    await expect(say(people[0]!, id, { choices: [9] })).rejects.toMatchObject({ status: 422 });
    await expect(say(people[27]!, id, { choices: [1] })).rejects.toMatchObject({ status: 404 });
    await closeByHand(db, coordinator, id);
    await expect(closeByHand(db, coordinator, id)).rejects.toMatchObject({ status: 409 });
    await expect(say(people[21]!, id, { choices: [1] })).rejects.toMatchObject({ status: 409 });
    expect((await box(people[21]!, id)).closedMs).not.toBeNull();
  });

  it('judges each of the answers that come at once by itself, and writes them together', async () => {
    const id = await ask(poll({ options: labels('A', 'B', 'C') }));
    const held: string[] = [];
    const note = ({ sql }: { sql: string }): void => {
      if (/FROM roll r\s.*FOR UPDATE/s.test(sql)) held.push(sql);
    };
    db.on('query', note);
    const [twice = 0, ...others] = people.slice(0, 12);
    const [notAsked = 0] = people.slice(25);
    const came = await Promise.allSettled([
      say(twice, id, { choices: [1] }),
      ...others.map((person) => say(person, id, { choices: [3] })),
      say(twice, id, { choices: [2] }, 'mail'),
      say(people[12] ?? 0, id, { choices: [7] }),
      say(notAsked, id, { choices: [1] }),
    ]);
    db.off('query', note);
    expect(came.slice(0, 13).every(({ status }) => status === 'fulfilled')).toBe(true);
    expect(came.slice(13)).toMatchObject([{ reason: { status: 422 } }, { reason: { status: 404 } }]);
    // The first by itself or with some, the rest together, and by itself the second answer of one person.
    expect(held.length).toBeLessThanOrEqual(4);
    expect((await openResults(db, session, id)).poll!.outcome).toMatchObject({
      voted: 12,
      counts: [{ n: 0 }, { n: 1 }, { n: 11 }],
    });
    expect(
      await rows(db, 'SELECT via FROM roll WHERE occurrence_id = ? AND person_id = ?', [id, twice]),
    ).toEqual([{ via: 'page' }]);
    expect(
      await countOf(
        db,
        "FROM events WHERE kind = 'ask.answered' AND JSON_VALUE(detail, '$.occurrence') = ?",
        [id],
      ),
    ).toBe(13);
  });

  it('takes the others where the database refuses one of the answers that come at once', async () => {
    const id = await ask(poll({}));
    const [refused = 0] = people.slice(3);
    await db.raw(
      `CREATE TRIGGER refuse_one BEFORE INSERT ON ballots FOR EACH ROW
       IF NEW.person_id = ${refused} THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'not this one'; END IF`,
    );
    try {
      const came = await Promise.allSettled(
        people.slice(0, 10).map((person) => say(person, id, { choices: [1] })),
      );
      expect(came.map(({ status }) => status === 'fulfilled')).toEqual(
        people.slice(0, 10).map((p) => p !== refused),
      );
    } finally {
      await db.raw('DROP TRIGGER refuse_one');
    }
    expect(await countOf(db, 'FROM roll WHERE occurrence_id = ? AND answered_at IS NOT NULL', [id])).toBe(9);
    expect(await countOf(db, 'FROM ballots WHERE occurrence_id = ?', [id])).toBe(9);
  });

  it('that is closed as answers come takes each of them whole or not at all, and its outcome counts just those', async () => {
    // Whether a statement of another connection is under way: nothing here takes that long but by waiting for a lock.
    const waits = async (statement: string): Promise<boolean> =>
      until(
        async () =>
          (await countOf(
            db,
            'FROM information_schema.PROCESSLIST WHERE id <> CONNECTION_ID() AND info LIKE ? AND time_ms > 200',
            [statement],
          )) > 0,
        10_000,
      );
    const votes = (id: number) => people.slice(0, 10).map((person) => say(person, id, { choices: [1] }));
    const standing = async (id: number): Promise<[number, number]> => [
      await countOf(db, 'FROM ballots WHERE occurrence_id = ?', [id]),
      await countOf(db, 'FROM roll WHERE occurrence_id = ? AND answered_at IS NOT NULL', [id]),
    ];

    // The closing is first: the answers wait for it, and all are refused with what to think of it.
    const late = await ask(poll({}));
    const closing = await db.transaction();
    await closing.raw('SELECT 1 FROM asks WHERE occurrence_id = ? FOR UPDATE', [late]);
    const refused = Promise.allSettled(votes(late));
    expect(await waits('%FROM asks a%LOCK IN SHARE MODE')).toBe(true);
    await closing.raw("UPDATE asks SET closed_at = NOW(3), closed_why = 'hand' WHERE occurrence_id = ?", [
      late,
    ]);
    await closing.commit();
    for (const each of await refused)
      expect(each).toMatchObject({
        status: 'rejected',
        reason: { status: 409, message: expect.stringContaining('has closed') as string },
      });
    expect(await standing(late)).toEqual([0, 0]);

    // The answers are first: the closing waits for those that have begun, and its outcome counts every one of them.
    const early = await ask(poll({}));
    const roll = await db.transaction();
    await roll.raw('SELECT 1 FROM roll WHERE occurrence_id = ? FOR UPDATE', [early]);
    const taken = Promise.allSettled(votes(early));
    expect(await waits('%FROM roll%FOR UPDATE')).toBe(true);
    const closed = closeByHand(db, coordinator, early);
    expect(await waits('UPDATE asks SET closed_at%')).toBe(true);
    await roll.commit();
    await closed;
    const written = (await taken).filter(({ status }) => status === 'fulfilled').length;
    expect(written).toBeGreaterThan(0);
    expect(await standing(early)).toEqual([written, written]);
    expect(await until(async () => (await tellings(`outcome:${early}`)).length === 25, 10_000)).toBe(true);
    const [told] = await tellings(`outcome:${early}`);
    expect(told?.text).toContain(`${written} of 25 people voted.`);
    await expect(say(people[12]!, early, { choices: [2] })).rejects.toMatchObject({ status: 409 });
  });

  it('shows its result when it says so: always, after voting, after closing', async () => {
    for (const [shown, before, after] of [
      ['always', true, true],
      ['after voting', false, true],
      ['after closing', false, false],
    ] as const) {
      const id = await ask(poll({ shown }));
      const seen = async () => (await box(people[1]!, id)).poll!.outcome !== null;
      expect(await seen(), shown).toBe(before);
      await say(people[1]!, id, { choices: [1] });
      expect(await seen(), shown).toBe(after);
      await closeByHand(db, coordinator, id);
      expect(await seen(), shown).toBe(true);
    }
  });

  it('closes at its time and when all have voted, posts its outcome once, and tells those who were asked', async () => {
    const board = await insertBoard(db, {
      name: 'Kitchen',
      about: 'Food',
      groupId: null,
      posting: 'moderators',
    });
    const small = await addGroup(db, 'Small', people.slice(0, 3));
    const id = await ask(poll({ closesWhenAll: true }), { audience: toGroups([small]), boards: [board] });
    await Promise.all(people.slice(0, 3).map((person) => say(person, id, { choices: [1] })));
    expect(await until(async () => (await tellings(`outcome:${id}`)).length === 3, 10_000)).toBe(true);
    expect((await openRoll(db, coordinator, id)).closedWords).toContain('when all had voted');
    const replies = await rows<{ document: string }>(
      db,
      'SELECT r.document FROM replies r JOIN posts o ON o.id = r.post_id WHERE o.occurrence_id = ?',
      [id],
    );
    expect(replies).toHaveLength(1);
    expect(replies[0]!.document).toContain('“Yes” comes first: 3 people. 3 of 3 people voted.');

    const timed = await ask(
      poll({}, { deadline: { wall: wallAt(Date.now() + 48 * HOUR, 'UTC'), zone: 'UTC' } }),
    );
    await say(people[4]!, timed, { choices: [2] });
    await db('asks')
      .where({ occurrence_id: timed })
      .update({ closes_at: db.raw('NOW(3)') });
    expect(await until(async () => (await tellings(`outcome:${timed}`)).length === 25, 10_000)).toBe(true);
    await expect(say(people[4]!, timed, { choices: [1] })).rejects.toMatchObject({
      status: 409,
      message: expect.stringContaining('stands') as string,
    });
  });

  it('takes further options from its author, from readers where they may, each under a number of its own', async () => {
    const id = await ask(poll({ adding: true, options: labels('Yes', 'No') }));
    const added = await Promise.allSettled(
      ['Later', 'Never', 'later '].map((label, i) =>
        addOption(db, people[i]!, id, { label, at: null }, false),
      ),
    );
    const done = added.filter((each) => each.status === 'fulfilled').length;
    expect(done).toBeGreaterThanOrEqual(1);
    const options = (await box(people[0]!, id)).poll!.options;
    expect(new Set(options.map((option) => option.id)).size).toBe(options.length);
    expect(options).toHaveLength(2 + done);
    const closed = await ask(poll({}));
    await expect(addOption(db, people[0]!, closed, { label: 'x', at: null }, false)).rejects.toMatchObject({
      status: 403,
    });
    expect(await addOption(db, coordinator.id, closed, { label: 'Maybe', at: null }, true)).toBe(3);
    await expect(
      addOption(db, coordinator.id, closed, { label: 'maybe', at: null }, true),
    ).rejects.toMatchObject({
      status: 422,
    });
    await say(people[0]!, closed, { choices: [3] });
    expect((await openResults(db, session, closed)).poll!.outcome!.counts[2]).toEqual({ id: 3, n: 1 });
  });
});

describe('a poll without names', () => {
  it('keeps no voter and no time with a vote, shows it five at a time, and lets the voter change it', async () => {
    const id = await ask(poll({ anonymous: true, shown: 'always' }));
    const results = async () => (await openResults(db, session, id)).poll!;
    await say(people[0]!, id, { choices: [1] });
    expect(await results()).toMatchObject({ outcome: null, breakdown: null });
    expect((await box(people[0]!, id)).poll!.hidden).toContain('5 votes or more at a time');
    for (const person of people.slice(1, 7)) await say(person, id, { choices: [2] });
    // A stand is shown only once five more have voted, so that what comes on top at the end is never one to four.
    expect((await results()).outcome).toBeNull();
    for (const person of people.slice(7, 10)) await say(person, id, { choices: [1] });
    expect((await results()).outcome).toBeNull();
    await say(people[0]!, id, { choices: [2] });
    expect((await box(people[0]!, id)).poll!.mine).toEqual({ kind: 'choices', choices: [2] });

    const kept = await rows<Record<string, unknown>>(db, 'SELECT * FROM ballots WHERE occurrence_id = ?', [
      id,
    ]);
    expect(kept).toHaveLength(10);
    for (const ballot of kept) {
      expect(Object.keys(ballot).sort()).toEqual([
        'ballot_key',
        'choice',
        'occurrence_id',
        'person_id',
        'station_id',
      ]);
      expect(ballot.person_id).toBeNull();
      // The key is no number of a person, nor anything the database could make from one.
      const key = (ballot.ballot_key as Buffer).toString('hex');
      expect(
        people.some((person) => key.endsWith(person.toString(16).padStart(4, '0')) && key.startsWith('0000')),
      ).toBe(false);
    }
    // While it is open nobody is shown by name, and nobody's time ever.
    expect((await listRoll(db, coordinator, id, { part: 'all', search: '', after: null })).people).toEqual(
      [],
    );
    await expect(ballotsCsv(db, session, id)).rejects.toMatchObject({ status: 409 });
    // Another secret finds no ballot to change, and does not let a second one count.
    await expect(
      answer(db, 'another secret altogether', people[0]!, id, { choices: [1] }, 'page'),
    ).rejects.toMatchObject({ status: 409 });
    await closeByHand(db, coordinator, id);
    const after = await listRoll(db, coordinator, id, { part: 'answered', search: '', after: null });
    expect(after.people).toHaveLength(10);
    expect(
      after.people.every((person) => person.answered && person.answeredMs === null && person.via === null),
    ).toBe(true);
    const file = await new Response(await ballotsCsv(db, session, id)).text();
    expect(file).toContain('No,7');
    expect(file).not.toContain('Person');
    expect((await results()).outcome).toMatchObject({ voted: 10, leading: [2] });
  });

  it('of one voter shows nothing, even when it has closed', async () => {
    const id = await ask(poll({ anonymous: true, shown: 'always' }));
    await say(people[3]!, id, { choices: [1] });
    await closeByHand(db, coordinator, id);
    expect((await box(people[3]!, id)).poll).toMatchObject({ outcome: null });
    expect((await openResults(db, session, id)).poll!.hidden).toContain('Fewer than 5');
    await expect(ballotsCsv(db, session, id)).rejects.toMatchObject({ status: 409 });
  });
});

describe('the chase', () => {
  it('is planned with its ask, is on the run sheet and in the rehearsal, and goes with what it follows', async () => {
    const asking = acknowledgement({ chase: { ...USUAL_CHASE, hours: 3, every: 3, most: 2, owners: true } });
    const draft = plan({
      audience: toGroups([group]),
      ask: asking,
      timing: { kind: 'at', wall: wallAt(Date.now() + 30 * HOUR, 'UTC'), zone: 'UTC' },
    });
    const draftId = await insertAnnouncement(db, coordinator.id, content(), draft, 'draft');
    const rehearsal = await rehearse(db, session, draftId, 6, {
      links: false,
      publicUrl: 'http://localhost',
    });
    const { occurrenceId } = await confirmSend(db, coordinator, draftId, { revision: 1 }, 'chase-planned');
    const planned = await chasesOf(db, occurrenceId);
    expect(planned.map((each) => each.dueMs)).toEqual(rehearsal.forecast.chases.dues);
    expect(rehearsal.sentence).toContain('chasing those who have not after 3 hours, at most twice');
    const sheet = await runSheet(db, coordinator, Date.now(), Date.now() + 48 * HOUR);
    expect(sheet.filter((row) => row.kind === 'chase' && row.chases === occurrenceId)).toHaveLength(2);
    // Each is planned once, by its key; none has a time of the rule of what it follows up.
    const chase = (await occurrenceById(db, planned[0]!.occurrenceId))!;
    const same = {
      send: { id: chase.sendId, versionId: chase.versionId },
      chases: occurrenceId,
      deadlineMs: null,
    };
    expect(await insertChase(db, { ...same, key: '1', dueMs: planned[0]!.dueMs })).toBeNull();
    expect([chase.recursAt, chase.kind, chase.rollOf]).toEqual(['', 'chase', occurrenceId]);
    // One that a process of before wrote, as it did before chases had keys, is followed up and called off likewise.
    await db.raw(
      `INSERT INTO occurrences (send_id, version_id, recurs_at, due_at, ends_at, chases)
       SELECT send_id, version_id, 'c1.old', due_at, ends_at, chases FROM occurrences WHERE id = ?`,
      [planned[1]!.occurrenceId],
    );
    await takeBack(db, coordinator, occurrenceId);
    expect((await chasesOf(db, occurrenceId)).map((each) => each.state)).toEqual(Array(3).fill('recalled'));
  });

  it('reaches those who have not answered, stops at once for whoever answers, and ends when all have', async () => {
    const few = await addGroup(db, 'Few', people.slice(0, 4));
    const id = await sendNow(db, {
      audience: toGroups([few]),
      ask: acknowledgement({ chase: { ...USUAL_CHASE, hours: 5, every: 5, most: 3, text: 'Just one tap.' } }),
      mail: true,
    });
    await reaches(db, id, 'sent');
    const [first, second, third] = await chasesOf(db, id);
    await acknowledge(db, people[0]!, id, 'page');
    await mail.mood('down');
    await makeDue(db, first!.occurrenceId);
    const waiting = (state: string) =>
      countOf(db, 'FROM deliveries WHERE occurrence_id = ? AND method = ? AND state = ?', [
        first!.occurrenceId,
        'mail',
        state,
      ]);
    await keepMailWaiting(first!.occurrenceId, 3);
    // One of the three answers from the chase itself before its mail could go: that mail never goes.
    await acknowledge(db, people[1]!, first!.occurrenceId, 'page');
    expect(await waiting('called off')).toBe(1);
    await mail.mood('well');
    await letMailGo(first!.occurrenceId);
    await reaches(db, first!.occurrenceId, 'sent');
    const chased = (await mail.mails()).filter((each) => each.text.includes('Just one tap.'));
    expect(chased.map((each) => each.to).sort()).toEqual(
      people.slice(2, 4).map((person) => `person${person}@test.example`),
    );
    expect(chased[0]!.subject).toMatch(/^Reminder: /);
    expect(chased[0]!.text).toContain('/m/acknowledge/');
    expect(
      (await forMe(db, member(people[1]!), null)).unanswered.map((each) => each.occurrenceId),
    ).not.toContain(id);

    // Pressed twice, with the same key and with another: one chase.
    const now = await Promise.all([
      chaseNow(db, coordinator, id, 'press-0001'),
      chaseNow(db, coordinator, id, 'press-0001'),
      chaseNow(db, coordinator, id, 'press-0002'),
    ]);
    expect(new Set(now.map((each) => each.occurrenceId)).size).toBe(1);
    expect(now[0]).toMatchObject({ people: 2 });
    await acknowledge(db, people[2]!, id, 'page');
    await acknowledge(db, people[3]!, id, 'page');
    await makeDue(db, second!.occurrenceId);
    await reaches(db, second!.occurrenceId, 'recalled');
    expect((await chasesOf(db, id)).find((each) => each.occurrenceId === second!.occurrenceId)!.failure).toBe(
      'Everybody had answered when it was due.',
    );
    await expect(chaseNow(db, coordinator, id, 'press-0003')).rejects.toMatchObject({ status: 409 });
    await closeByHand(db, coordinator, id);
    await reaches(db, third!.occurrenceId, 'recalled');
  });

  it('that waits at the mail server does not go once it is closed', async () => {
    const two = await addGroup(db, 'Two', people.slice(10, 12));
    const id = await sendNow(db, {
      audience: toGroups([two]),
      ask: acknowledgement({ chase: { ...USUAL_CHASE, most: 1, text: 'Before it closes.' } }),
      mail: true,
    });
    await reaches(db, id, 'sent');
    const [chased] = await chasesOf(db, id);
    await mail.mood('down');
    await makeDue(db, chased!.occurrenceId);
    const mails = (state: string) =>
      countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'mail' AND state = ?", [
        chased!.occurrenceId,
        state,
      ]);
    await keepMailWaiting(chased!.occurrenceId, 2);
    await closeByHand(db, coordinator, id);
    await mail.mood('well');
    expect(await until(async () => (await mails('called off')) === 2, 20_000)).toBe(true);
    await letMailGo(chased!.occurrenceId);
    await reaches(db, chased!.occurrenceId, 'sent');
    expect((await mail.mails()).filter((each) => each.text.includes('Before it closes.'))).toEqual([]);
  });

  it('gives the owners of groups a list at last; they see their own groups’ part and nobody else’s', async () => {
    const owned = await addGroup(db, 'Owned', people.slice(0, 2));
    for (const id of [people[20]!, people[22]!]) await appointOwner(db, coordinator, owned, id, true);
    const id = await ask(acknowledgement({ chase: { ...USUAL_CHASE, owners: true } }));
    await acknowledge(db, people[0]!, id, 'page');
    await db('asks')
      .where({ occurrence_id: id })
      .update({ list_at: db.raw('NOW(3)') });
    expect(await until(async () => (await tellings(`missing:${id}:%`)).length === 2, 10_000)).toBe(true);
    expect(await tellings(`missing:${id}:%`)).toEqual(
      [people[20], people[22]].map((personId): unknown =>
        expect.objectContaining({ personId, title: '1 person of Owned has not answered' }),
      ),
    );
    const owner = member(people[20]!);
    expect(await openRoll(db, owner, id)).toMatchObject({
      tally: { asked: 2, answered: 1 },
      onlyOf: ['Owned'],
      mayAct: false,
    });
    expect((await listRoll(db, owner, id, { part: 'all', search: '', after: null })).people).toHaveLength(2);
    expect((await listAsks(db, owner)).find((each) => each.occurrenceId === id)!.tally).toEqual({
      asked: 2,
      answered: 1,
    });
    await expect(closeByHand(db, owner, id)).rejects.toMatchObject({ status: 403 });
    await expect(openRoll(db, member(people[21]!), id)).rejects.toMatchObject({ status: 404 });
    // All at the same moment, and whoever may see the whole is given it once for all of them.
    const whole = await openRoll(db, coordinator, id);
    const part = await openRoll(db, owner, id);
    const [first, theirs, nobodys, second, stranger, third] = await Promise.allSettled([
      openRoll(db, coordinator, id),
      openRoll(db, owner, id),
      openRoll(db, member(people[21]!), id),
      openRoll(db, coordinator, id),
      listRoll(db, member(people[21]!), id, { part: 'all', search: '', after: null }),
      openRoll(db, coordinator, id),
    ]);
    for (const each of [first, second, third]) expect(each).toEqual({ status: 'fulfilled', value: whole });
    expect(theirs).toEqual({ status: 'fulfilled', value: part });
    for (const each of [nobodys, stranger])
      expect(each).toMatchObject({ status: 'rejected', reason: { status: 404 } });
    await expect(listAsks(db, member(people[21]!))).rejects.toMatchObject({ status: 403 });
    await expect(appointOwner(db, owner, owned, owner.id, true)).rejects.toMatchObject({ status: 403 });
  });
});

describe('the roll', () => {
  it('keeps whoever leaves after answering, marked, and asks whoever joins later where the plan says so', async () => {
    const changing = await addGroup(db, 'Changing', people.slice(5, 8));
    const plain = await ask(acknowledgement(), { audience: toGroups([changing]) });
    const open = await ask(acknowledgement({ joiners: true }), {
      audience: toGroups([changing]),
      mail: true,
    });
    await acknowledge(db, people[5]!, plain, 'page');
    await db('group_members').where({ group_id: changing, person_id: people[5]! }).delete();
    await db('group_members').insert({ group_id: changing, person_id: people[9]! });
    await db('asks')
      .where({ occurrence_id: open })
      .update({ joiners_at: db.raw('NOW(3)') });
    expect(await until(async () => (await openRoll(db, coordinator, open)).tally.asked === 4, 10_000)).toBe(
      true,
    );
    await acknowledge(db, people[9]!, open, 'page');
    const roll = await openRoll(db, coordinator, plain);
    expect(roll).toMatchObject({ tally: { asked: 3, answered: 1 }, goneSince: 1, joinedSince: 1 });
    const { people: found } = await listRoll(db, coordinator, plain, {
      part: 'answered',
      search: '',
      after: null,
    });
    expect(found).toEqual([expect.objectContaining({ personId: people[5], gone: true, answered: true })]);
  });

  it('of a text that changed in substance asks again, and keeps the first answers', async () => {
    const id = await ask(acknowledgement({ statement: 'I agree.', chase: { ...USUAL_CHASE, most: 1 } }), {
      mail: true,
    });
    const [chased] = await chasesOf(db, id);
    await makeDue(db, chased!.occurrenceId);
    await reaches(db, chased!.occurrenceId, 'sent');
    await acknowledge(db, people[0]!, id, 'page');
    await acknowledge(db, people[1]!, id, 'mail');
    await closeByHand(db, coordinator, id);
    const { announcementId } = await openForChange(db, coordinator, id, 'correct');
    const { revision } = (
      await rows<{ revision: number }>(db, 'SELECT revision FROM announcements WHERE id = ?', [
        announcementId,
      ])
    )[0]!;
    await publishCorrection(
      db,
      coordinator,
      announcementId,
      { revision, note: 'The limit is 12 %.', tell: 'nobody', askAgain: true },
      'ask-again-1',
    );
    expect(await openRoll(db, coordinator, id)).toMatchObject({
      tally: { asked: 25, answered: 0 },
      earlier: 2,
    });
    // Open again, and chased again beside the chase that has gone.
    expect((await box(people[0]!, id)).closedMs).toBeNull();
    expect((await chasesOf(db, id)).map((each) => each.state)).toEqual(['sent', 'scheduled']);
    expect((await box(people[0]!, id)).earlierMs).not.toBeNull();
    await acknowledge(db, people[0]!, id, 'page');
    const { people: found } = await listRoll(db, coordinator, id, {
      part: 'answered',
      search: '',
      after: null,
    });
    expect(found).toHaveLength(1);
    expect(found[0]!.earlierMs).toBeLessThan(found[0]!.answeredMs!);
  });
});

describe('a check-in', () => {
  let board: number;
  let team: number;
  beforeAll(async () => {
    board = await insertBoard(db, {
      name: 'Round',
      about: 'The daily round',
      groupId: null,
      posting: 'moderators',
    });
    team = await addGroup(db, 'Team', people.slice(0, 8));
    // One is away, one on leave, one has another week, and the South has a holiday.
    // So too on the day after, which may begin meanwhile.
    const [today, next] = [0, DAY].map((later) => dateAt(Date.now() + later, 'Europe/London')) as [
      string,
      string,
    ];
    await addAbsence(db, member(people[1]!), { from: today, to: next });
    await db('people').where({ id: people[2]! }).update({ standing: 'on leave' });
    for (const person of people.slice(0, 8)) await chooseWorkDays(db, member(person), [1, 2, 3, 4, 5, 6, 7]);
    const free = [today, next].map((date) => ((new Date(`${date}T12:00:00Z`).getUTCDay() + 6) % 7) + 1);
    await chooseWorkDays(
      db,
      member(people[3]!),
      [1, 2, 3, 4, 5, 6, 7].filter((day) => !free.includes(day)),
    );
    for (const later of [0, DAY])
      await addHoliday(db, coordinator, {
        on: dateAt(Date.now() + later, 'Pacific/Auckland'),
        name: 'Spring day',
        stationId: 2,
      });
    await db('people').where({ id: people[7]! }).update({ station_id: 2, zone: 'Pacific/Auckland' });
  });
  const checkIn = (): Asking => ({
    ...common,
    kind: 'check-in',
    within: 8,
    questions: USUAL_QUESTIONS,
    digestOn: [board],
  });

  it('is asked of those whose working day it is, as its rehearsal says', async () => {
    const part: Partial<Plan> = { audience: toGroups([team]), ask: checkIn(), mail: false };
    const draftId = await insertAnnouncement(db, coordinator.id, content(), plan(part), 'draft');
    const rehearsed = await rehearsedPeople(db, coordinator, draftId, {
      filter: 'all',
      search: '',
      after: null,
    });
    const idle = await rehearsedPeople(db, coordinator, draftId, {
      filter: 'not working',
      search: '',
      after: null,
    });
    const id = await sendNow(db, part);
    await reaches(db, id, 'sent');
    const asked = await rows<{ id: number }>(
      db,
      'SELECT person_id AS id FROM roll WHERE occurrence_id = ? ORDER BY 1',
      [id],
    );
    expect(asked.map((row) => row.id)).toEqual([0, 4, 5, 6].map((i) => people[i]));
    expect(
      rehearsed.people
        .filter((person) => person.dueMs !== null)
        .map((person) => person.id)
        .sort((a, b) => a - b),
    ).toEqual(asked.map((row) => row.id));
    expect(idle.people.map((person) => person.id).sort((a, b) => a - b)).toEqual(
      [1, 2, 3, 7].map((i) => people[i]),
    );
  });

  it('over the days: offers what was to come next, puts the blocked on top, is unblocked in a thread, and is digested', async () => {
    const draftId = await insertAnnouncement(
      db,
      coordinator.id,
      content({ title: 'Round' }),
      plan({
        audience: toGroups([team]),
        ask: checkIn(),
        mail: false,
        timing: {
          kind: 'recurring',
          start: wallAt(Date.now() + 26 * HOUR, 'UTC'),
          zone: 'UTC',
          rule: { ...WEEKLY, freq: 'daily', end: { kind: 'count', count: 3 } },
          passed: 'not',
        },
      }),
      'draft',
    );
    const { occurrenceId: first } = await confirmSend(db, coordinator, draftId, { revision: 1 }, 'round-1');
    const days = await rows<{ id: number }>(
      db,
      'SELECT o.id FROM occurrences o JOIN occurrences f ON f.send_id = o.send_id WHERE f.id = ? ORDER BY o.due_at',
      [first],
    );
    expect(days).toHaveLength(3);
    const [one, two] = days.map((day) => day.id);
    await makeDue(db, one!);
    await reaches(db, one!, 'sent');
    const [ada, bo] = [people[4]!, people[5]!];
    expect((await box(ada, one!)).checkIn).toMatchObject({ answers: {}, offered: false });
    await say(ada, one!, { answers: { 0: 'Labels', 1: 'Sedges' } });
    await say(bo, one!, { answers: { 0: 'Ferns', 1: 'Mosses', 2: 'The printer has no ribbon' } });
    await expect(say(bo, one!, { answers: { 0: 'Ferns' } })).rejects.toMatchObject({ status: 422 });
    const page = await checkInPage(db, { actor: member(ada), zone: 'UTC' }, one!);
    expect(page.said.map((said) => said.personId)).toEqual([bo, ada]);
    expect(page.missingCount).toBe(2);

    // Ada helps; Bo is told, once, and is blocked no more. Somebody who is not asked sees none of it.
    const help = { text: 'There is a spare in the cupboard.', unblocks: true };
    await Promise.all([1, 2].map(() => replyToCheckIn(db, member(ada), one!, bo, help, 'help-0001')));
    const thread = await checkInThread(db, member(bo), one!, bo);
    expect(thread.replies.map((reply) => reply.text)).toEqual([help.text]);
    expect(thread.said.unblocked).not.toBeNull();
    expect(await tellings(`check-in:${one}:${bo}:%`)).toEqual([expect.objectContaining({ personId: bo })]);
    await expect(unblockCheckIn(db, member(ada), one!, bo)).rejects.toMatchObject({ status: 409 });
    // However many reply, all of it can be read, the latest first.
    await db('check_in_replies').insert(
      Array.from({ length: 320 }, (_, i) => ({
        occurrence_id: one!,
        person_id: bo,
        author_id: ada,
        text: `Word ${i}`,
        idempotency_key: `word-${i}`,
      })),
    );
    const texts: string[] = [];
    for (let before: number | null = null, pages = 0; pages < 20; pages++) {
      const { replies } = await checkInThread(db, member(bo), one!, bo, before);
      if (replies.length === 0) break;
      texts.unshift(...replies.map((reply) => reply.text));
      before = replies[0]!.id;
    }
    expect(texts).toEqual([help.text, ...Array.from({ length: 320 }, (_, i) => `Word ${i}`)]);
    await db('check_in_replies').where('text', 'like', 'Word %').delete();
    await expect(checkInPage(db, { actor: member(people[12]!), zone: 'UTC' }, one!)).rejects.toMatchObject({
      status: 404,
    });
    await expect(replyToCheckIn(db, member(people[12]!), one!, bo, help, 'help-0002')).rejects.toMatchObject({
      status: 404,
    });

    await db('asks')
      .where({ occurrence_id: one! })
      .update({ closes_at: db.raw('NOW(3)') });
    const digests = () =>
      rows<{ body: string }>(
        db,
        'SELECT v.body FROM posts p JOIN announcement_versions v ON v.id = p.version_id WHERE p.board_id = ?',
        [board],
      );
    expect(await until(async () => (await digests()).length === 1, 10_000)).toBe(true);
    expect((await digests())[0]!.body).toContain('2 of 4 people checked in.');
    await expect(say(ada, one!, { answers: { 0: 'x', 1: 'y' } })).rejects.toMatchObject({ status: 409 });

    await makeDue(db, two!);
    await reaches(db, two!, 'sent');
    expect((await box(ada, two!)).checkIn).toMatchObject({ answers: { 0: 'Sedges' }, offered: true });
    await say(ada, two!, { answers: { 0: 'Sedges', 1: 'Rest' } });
    const looked = async (part: object) =>
      (await checkInHistory(db, session, two!, { search: '', ...part })).said.map(
        (said) => `${said.personId === ada ? 'ada' : 'bo'} ${said.occurrenceId === one ? 1 : 2}`,
      );
    expect(await looked({})).toEqual(['ada 2', 'bo 1', 'ada 1']);
    expect(await looked({ person: ada })).toEqual(['ada 2', 'ada 1']);
    expect(await looked({ search: 'sedges' })).toEqual(['ada 2', 'ada 1']);
    expect(await looked({ search: 'sedges', question: 0 })).toEqual(['ada 2']);
    expect(await looked({ from: '2020-01-01', to: '2020-02-01' })).toEqual([]);
  });
});
