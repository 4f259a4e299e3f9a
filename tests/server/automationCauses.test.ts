import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { EMPTY_POLL } from '../../src/core/asks/poll/poll.ts';
import type { Audience } from '../../src/core/audience/expression.ts';
import type { When } from '../../src/core/automation/automation.ts';
import { sessionDue, type OnSession } from '../../src/core/automation/dates.ts';
import type { SessionInput } from '../../src/core/calendar/session.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { resolveMoment, wallAt } from '../../src/core/timing/wallTime.ts';
import { answer } from '../../src/server/asks/answering.ts';
import { closeAndSettle } from '../../src/server/asks/closing.ts';
import { acknowledge, closeByHand } from '../../src/server/asks/service.ts';
import { lineUpDates } from '../../src/server/automations/dates.ts';
import { replay } from '../../src/server/automations/replay.ts';
import { automationChoices } from '../../src/server/automations/service.ts';
import { automationById } from '../../src/server/automations/store.ts';
import { sayOfDate } from '../../src/server/calendar/answering.ts';
import { callOffDate, changeOneDate, makeSession } from '../../src/server/calendar/making.ts';
import { sessionPage } from '../../src/server/calendar/reading.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { actorOf } from '../../src/server/accounts/actor.ts';
import { runSheet } from '../../src/server/sends/runSheet.ts';
import { withdraw } from '../../src/server/sends/withdrawing.ts';
import { actIn, field, putToWork, runsIn, saidIn, says } from './automating.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  followAll,
  freshDatabase,
  refusal,
  SECRET,
  sendNow,
} from './world.ts';

const MINUTE = 60_000;
const ZONE = 'Africa/Nairobi';
let db: Database;
let people: number[];
let audience: Audience;
let editor: Actor;
let made = 0;

const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });
const failed = (error: unknown): never => {
  throw error;
};
const nobody = { to: null, boards: [], outside: [], boardField: null, mail: false, otherwise: null };
const session = async (part: Partial<SessionInput> = {}) => {
  const { id } = await makeSession(db, coordinator, {
    title: `Exchange ${++made}`,
    text: '',
    wall: wallAt(Date.now() + 15 * MINUTE, ZONE),
    zone: ZONE,
    minutes: 30,
    place: 'The long table',
    link: '',
    rule: null,
    audience,
    capacity: null,
    remindMinutes: null,
    ...part,
  });
  const { dates } = await sessionPage(db, coordinator, id);
  return { id, date: dates[0]!, dates };
};
const before = (sessionId: number, part: Partial<OnSession> = {}): OnSession => ({
  kind: 'session',
  sessionId,
  span: -10,
  unit: 'minutes',
  edge: 'begins',
  ...part,
});
const saysOfSession = {
  content: says(
    'Soon: {the session}',
    'At ',
    field('session.place', 'home'),
    ', ',
    field('session.coming'),
    ' come.',
  ),
};
/** Lets the runs that wait for their time be taken now. */
const timePasses = (id: number) =>
  db.raw("UPDATE automation_runs SET try_at = NOW(3) WHERE automation_id = ? AND state = 'waiting'", [id]);
const asked = async (planPart: Parameters<typeof sendNow>[1], title: string): Promise<number> => {
  const id = await sendNow(db, { audience, ...planPart }, { title });
  await expandNow(db, id);
  return id;
};
const reach = async (id: number): Promise<number[]> => {
  const found = await rows<{ id: number }>(
    db,
    `SELECT DISTINCT d.person_id AS id FROM automation_runs r JOIN automation_sayings y ON y.run_id = r.id
       JOIN deliveries d ON d.occurrence_id = y.occurrence_id WHERE r.automation_id = ? ORDER BY d.person_id`,
    [id],
  );
  return found.map((row) => row.id);
};
const goOut = async (id: number): Promise<number[]> => {
  for (const { occurrenceId } of await rows<{ occurrenceId: number }>(
    db,
    `SELECT y.occurrence_id AS occurrenceId FROM automation_runs r JOIN automation_sayings y ON y.run_id = r.id
     WHERE r.automation_id = ? AND y.occurrence_id IS NOT NULL`,
    [id],
  ))
    await expandNow(db, occurrenceId);
  return reach(id);
};

beforeAll(async () => {
  ({ db } = await freshDatabase('automation_causes'));
  people = await addPeople(db, 10);
  const group = await addGroup(db, 'Keyholders', people.slice(0, 5));
  audience = { kind: 'group', id: group };
  const [editorId] = people.slice(9);
  await db('people').where({ id: editorId! }).update({ role: 'editor' });
  await db('editor_reach').insert({ person_id: editorId!, group_id: group });
  editor = (await actorOf(db, editorId!))!;
});
beforeEach(() => db.raw("UPDATE automations SET state = 'off'"));
afterAll(() => db.destroy());

describe('a session of the calendar', () => {
  it('sets a reminder off before it begins, for those who have not said no, with what is known of the date then', async () => {
    const { id: sessionId, date } = await session();
    const id = await putToWork(db, before(sessionId), saysOfSession);
    expect((await automationById(db, id))?.live?.tell.to).toEqual({ kind: 'invited', which: 'not declined' });
    expect((await runsIn(db, id)).map(({ dueMs, state }) => ({ dueMs, state }))).toEqual([
      { dueMs: date.startMs - 10 * MINUTE, state: 'waiting' },
    ]);
    expect(
      (await runSheet(db, coordinator, date.startMs - 60 * MINUTE, date.startMs)).filter(
        (row) => row.automationId === id,
      ),
    ).toHaveLength(1);
    await sayOfDate(db, member(people[0]!), date.id, 'no');
    await sayOfDate(db, member(people[1]!), date.id, 'yes');
    await timePasses(id);
    await actIn(db);
    const [said, ...more] = await saidIn(db, id);
    expect(more).toEqual([]);
    expect(said?.title).toBe(`Soon: ${date.title}`);
    expect(said?.body).toContain('"At "},{"type":"text","text":"The long table"}');
    expect(said?.body).toContain('"1"},{"type":"text","text":" come."}');
    expect(await goOut(id)).toEqual(people.slice(1, 5));
  });

  it('goes with a date that is moved, is silent of one that is called off, and comes for each of those that recur', async () => {
    const start = wallAt(Date.now() + 30 * MINUTE, ZONE);
    const { id: sessionId, dates } = await session({
      wall: start,
      rule: { ...WEEKLY, freq: 'daily', weekdays: [], end: { kind: 'count', count: 3 } },
    });
    const id = await putToWork(db, before(sessionId), saysOfSession);
    expect(await runsIn(db, id)).toEqual([]);
    const [first, second] = dates;
    const aheadTo = (days: number) =>
      runSheet(db, coordinator, Date.now(), Date.now() + days * 1440 * MINUTE).then((lines) =>
        lines.filter((row) => row.automationId === id).map((row) => row.dueMs),
      );
    expect(await aheadTo(7)).toEqual(dates.map((each) => each.startMs - 10 * MINUTE));
    await callOffDate(db, coordinator, second!.id, { off: true, note: '' });
    // Moved nearer than what is lined up ahead: it is lined up at once.
    const { minutes, place, link } = first!;
    const wall = wallAt(Date.now() + 14 * MINUTE, ZONE);
    await changeOneDate(db, coordinator, first!.id, { wall, minutes, place, link, note: '' });
    await followAll(db);
    expect((await runsIn(db, id)).map((run) => run.dueMs)).toEqual([
      resolveMoment({ wall, zone: ZONE }).epochMs - 10 * MINUTE,
    ]);
    await callOffDate(db, coordinator, first!.id, { off: true, note: '' });
    await timePasses(id);
    await actIn(db);
    expect(await saidIn(db, id)).toEqual([]);
    expect((await runsIn(db, id))[0]).toMatchObject({ state: 'nothing' });
    expect(await aheadTo(7)).toHaveLength(1);
  });

  it('counts days on the clock of the session, over a clock change too, and hours as they pass', () => {
    const zone = 'Europe/London';
    // Clocks go forward on 28 March 2027.
    const { epochMs: startMs } = resolveMoment({ wall: '2027-03-28T10:00', zone });
    const due = (part: Partial<OnSession>): string =>
      wallAt(sessionDue(before(1, part), { startMs, minutes: 90, zone }), zone);
    expect(due({ span: -1, unit: 'days' })).toBe('2027-03-27T10:00');
    expect(due({ span: -24, unit: 'hours' })).toBe('2027-03-27T09:00');
    expect(due({ span: 0, edge: 'ends' })).toBe('2027-03-28T11:30');
    expect(due({ span: 1, unit: 'days', edge: 'ends' })).toBe('2027-03-29T11:30');
  });

  it.each([
    ['all', [0, 1, 2, 3, 4]],
    ['coming', [1]],
    ['silent', [2, 3, 4]],
  ] as const)('tells %s of those it is for', async (which, expected) => {
    const { id: sessionId, date } = await session();
    await sayOfDate(db, member(people[0]!), date.id, 'no');
    await sayOfDate(db, member(people[1]!), date.id, 'yes');
    const id = await putToWork(db, before(sessionId), {
      ...saysOfSession,
      tell: { ...nobody, to: { kind: 'invited', which } },
    });
    await timePasses(id);
    await actIn(db);
    expect(await goOut(id)).toEqual(expected.map((at) => people[at]));
  });

  it('is offered to those alone whom it is for, and refused where an editor names another', async () => {
    const { id: sessionId } = await session({ audience: { kind: 'person', id: people[0]! } });
    const offered = async (actor: Actor) =>
      (await automationChoices(db, actor)).sessions.map((each) => each.id);
    expect(await offered(coordinator)).toContain(sessionId);
    expect(await offered(editor)).not.toContain(sessionId);
    const refused = await refusal(
      putToWork(
        db,
        before(sessionId),
        { ...saysOfSession, tell: { ...nobody, to: { kind: 'audience', audience } } },
        editor,
      ),
    );
    expect(JSON.stringify(refused.errors)).toContain('not for you');
  });
});

describe('an ask', () => {
  const closes: When = { kind: 'ask closes', asks: 'any', whose: 'all' };
  const outcome = {
    content: says(
      '{how many have answered} of {how many were asked}: {the announcement}',
      field('ask.outcome'),
    ),
  };
  const poll = (part = {}) => ({
    kind: 'poll' as const,
    deadline: null,
    within: null,
    chase: null,
    joiners: false,
    poll: {
      ...EMPTY_POLL,
      question: 'Tea?',
      options: ['Yes', 'No'].map((label) => ({ label, at: null })),
      ...part,
    },
  });
  const vote = (person: number, id: number) => answer(db, SECRET, person, id, { choices: [1] }, 'page');

  it('that closes tells whoever asked what came of it, once, however it closed', async () => {
    const id = await putToWork(db, closes, outcome);
    const poll1 = await asked({ ask: poll() }, 'Tea');
    await vote(people[0]!, poll1);
    await closeByHand(db, coordinator, poll1);
    await followAll(db);
    await closeAndSettle(db, failed);
    await actIn(db);
    const [said, ...more] = await saidIn(db, id);
    expect(more).toEqual([]);
    expect(said?.title).toBe('1 of 5: Tea');
    expect(said?.body).toMatch(/Yes/);
    expect(await goOut(id)).toEqual([coordinator.id]);
  });

  it('that is an acknowledgement comes to its deadline, and those who have not answered are told', async () => {
    const id = await putToWork(
      db,
      { ...closes, asks: 'acknowledgement' },
      {
        ...outcome,
        tell: { ...nobody, to: { kind: 'asked', which: 'silent' } },
      },
    );
    const ask = await asked({ ask: acknowledgement() }, 'Keys');
    const other = await asked({ ask: acknowledgement() }, 'Later');
    await acknowledge(db, people[0]!, ask, 'page');
    const now = await databaseNow(db);
    const deadline = (of: number, ms: number) =>
      db('occurrences')
        .where({ id: of })
        .update({ deadline_at: new Date(ms) });
    await deadline(ask, now + 5 * MINUTE);
    await deadline(other, now + 6 * MINUTE);
    await Promise.all([lineUpDates(db), lineUpDates(db)]);
    expect(await runsIn(db, id)).toHaveLength(2);
    // One that is moved meanwhile is not told of at the hour it had.
    await deadline(other, now + 60 * MINUTE);
    await timePasses(id);
    await actIn(db);
    expect((await saidIn(db, id)).map((each) => each.title)).toEqual(['1 of 5: Keys']);
    expect(await goOut(id)).toEqual(people.slice(1, 5));
  });

  it('that enough have answered sets it off once, and not where so many had answered before it was put to work', async () => {
    const share = (percent: number): When => ({
      kind: 'ask answered',
      asks: 'any',
      whose: 'all',
      share: percent,
    });
    const early = await asked({ ask: acknowledgement() }, 'Early');
    for (const person of people.slice(0, 3)) await acknowledge(db, person, early, 'page');
    await followAll(db);
    const id = await putToWork(db, share(60), outcome);
    const all = await putToWork(db, share(100), outcome);
    const ask = await asked({ ask: acknowledgement() }, 'Enough');
    for (const person of people.slice(0, 2)) await acknowledge(db, person, ask, 'page');
    await actIn(db);
    expect(await saidIn(db, id)).toEqual([]);
    for (const person of people.slice(2, 4)) await acknowledge(db, person, ask, 'page');
    await acknowledge(db, people[3]!, early, 'page');
    await actIn(db);
    expect((await saidIn(db, id)).map((each) => each.title)).toEqual(['4 of 5: Enough']);
    expect(await saidIn(db, all)).toEqual([]);
    const { runs } = await replay(db, coordinator, id, (await automationById(db, id))!.draft);
    // In a replay what was answered before counts as well: it is what would have been.
    expect(runs).toBe(2);
  });

  it('of others is not an editor’s to listen to, and not told once whoever listens is no coordinator any more', async () => {
    const refused = await refusal(putToWork(db, closes, outcome, editor));
    expect(JSON.stringify(refused.errors)).toContain('Only a coordinator may have it listen');
    const id = await putToWork(db, closes, outcome);
    await db('automations').where({ id }).update({ owner_id: editor.id });
    const ask = await asked({ ask: acknowledgement() }, 'Not theirs');
    await closeByHand(db, coordinator, ask);
    await actIn(db);
    expect(await saidIn(db, id)).toEqual([]);
    expect((await runsIn(db, id))[0]).toMatchObject({ state: 'nothing', cause: 'Not theirs' });
  });

  it('without names tells nobody who has voted while it is open, and nothing at all once it is withdrawn', async () => {
    const id = await putToWork(
      db,
      { kind: 'ask answered', asks: 'poll', whose: 'all', share: 20 },
      {
        ...outcome,
        tell: { ...nobody, to: { kind: 'asked', which: 'silent' } },
      },
    );
    const secret = await asked({ ask: poll({ anonymous: true }) }, 'Secret');
    await vote(people[0]!, secret);
    await actIn(db);
    expect(await saidIn(db, id)).toEqual([]);
    expect((await runsIn(db, id))[0]?.reason).toContain('without names');
    const open = await asked({ ask: poll() }, 'Open');
    await vote(people[0]!, open);
    await followAll(db);
    await withdraw(db, coordinator, open, { note: 'Not now' });
    await actIn(db);
    expect(await saidIn(db, id)).toEqual([]);
  });
});
