import ICAL from 'ical.js';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Audience } from '../../src/core/audience/expression.ts';
import type { SessionInput } from '../../src/core/calendar/session.ts';
import type { ShownDate } from '../../src/core/calendar/shown.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { boardForDate } from '../../src/server/boards/session.ts';
import { announceDate, openComing, sayByLink } from '../../src/server/calendar/announcing.ts';
import { fillFreePlaces, sayOfDate } from '../../src/server/calendar/answering.ts';
import { dateFile, newSessionsKey, sessionsFeed } from '../../src/server/calendar/feed.ts';
import {
  callOffDate,
  callOffSession,
  changeOneDate,
  changeSession,
  layAhead,
  makeSession,
} from '../../src/server/calendar/making.ts';
import {
  calendarPage,
  participantPage,
  participantsCsv,
  sessionPage,
  tryDates,
} from '../../src/server/calendar/reading.ts';
import { remindOfSessions } from '../../src/server/calendar/reminding.ts';
import { shownDate } from '../../src/server/calendar/visible.ts';
import { saveDraft } from '../../src/server/announcements/service.ts';
import { announcementById } from '../../src/server/announcements/store.ts';
import { versionById } from '../../src/server/announcements/versionStore.ts';
import { eventSpan } from '../../src/core/content/event.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { includes } from '../../src/core/audience/includes.ts';
import { STANDS } from '../../src/core/audience/stands.ts';
import { countPeople, factsOf } from '../../src/server/audience/store.ts';
import { layOut } from '../../src/server/engine/layingOut.ts';
import { occurrenceById } from '../../src/server/sends/occurrenceStore.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { audienceContext } from '../../src/server/groups/directory.ts';
import { calendarResponse } from '../../src/server/http/conditional.ts';
import { signLink } from '../../src/server/links/signed.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  countOf,
  followAll,
  freshDatabase,
  SECRET,
  sendNow,
} from './world.ts';

let db: Database;
let people: number[];
let audience: Audience;
let made = 0;

const URL_OF = 'https://bell.example';
/** A clock that never changes, so that it is the same on every night of the year. */
const ZONE = 'Africa/Nairobi';
const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });
const inHours = (hours: number, zone = ZONE): string => wallAt(Date.now() + hours * 3_600_000, zone);
const input = (part: Partial<SessionInput> = {}): SessionInput => ({
  title: `Vault drill ${++made}`,
  text: 'Lids, labels, logs.',
  wall: inHours(48),
  zone: ZONE,
  minutes: 60,
  place: 'The vault',
  link: '',
  rule: null,
  audience,
  capacity: null,
  remindMinutes: null,
  ...part,
});
const make = async (part: Partial<SessionInput> = {}): Promise<{ id: number; dates: ShownDate[] }> => {
  const { id } = await makeSession(db, coordinator, input(part));
  return { id, dates: (await sessionPage(db, coordinator, id)).dates };
};
const one = async (part: Partial<SessionInput> = {}): Promise<ShownDate> => (await make(part)).dates[0]!;
const told = (personId: number, like: string): Promise<number> =>
  countOf(db, "FROM notices WHERE person_id = ? AND kind = 'session' AND title LIKE ?", [personId, like]);
const change = async (id: number, part: Partial<SessionInput>) => {
  const { revision } = await sessionPage(db, coordinator, id);
  const [before] = await rows<{ title: string }>(db, 'SELECT title FROM calendar_sessions WHERE id = ?', [
    id,
  ]);
  return changeSession(db, coordinator, id, { ...input(), title: before!.title, ...part, revision });
};

beforeAll(async () => {
  ({ db } = await freshDatabase('calendar'));
  people = await addPeople(db, 8);
  audience = { kind: 'group', id: await addGroup(db, 'Keyholders', people.slice(0, 6)) };
});
beforeEach(() => db('notices').delete());
afterAll(() => db.destroy());

describe('a session', () => {
  it('stands in the calendar of those it is for, and of nobody else; who looks after it sees all', async () => {
    const date = await one();
    const seenBy = async (actor: Actor, everybodys = false) =>
      (await calendarPage(db, actor, { everybodys, after: null })).dates.map((each) => each.id);
    expect(await seenBy(member(people[0]!))).toContain(date.id);
    expect(await seenBy(member(people[7]!), true)).not.toContain(date.id);
    expect(await seenBy(coordinator, true)).toContain(date.id);
    expect(await seenBy(coordinator, false)).not.toContain(date.id);
    await expect(shownDate(db, member(people[7]!), date.id)).rejects.toMatchObject({ status: 404 });
    await expect(sayOfDate(db, member(people[7]!), date.id, 'yes')).rejects.toMatchObject({ status: 404 });
    await expect(sayOfDate(db, coordinator, date.id, 'yes')).rejects.toMatchObject({ status: 403 });
    for (const act of [
      () => makeSession(db, member(people[0]!), input()),
      () => sessionPage(db, member(people[0]!), date.sessionId),
      () => participantPage(db, member(people[0]!), date.id, { stands: 'all', after: null }),
      () => callOffDate(db, member(people[0]!), date.id, { off: true, note: '' }),
      () => announceDate(db, member(people[0]!), date.id),
      () => boardForDate(db, member(people[0]!), date.id),
    ])
      await expect(act()).rejects.toMatchObject({ status: 403 });
  });

  it('that recurs is laid out a year ahead, page after page, each date once, and further when the year moves on', async () => {
    // Not a whole number of weeks from the end of the year that is laid out.
    const { id, dates } = await make({ rule: WEEKLY, wall: inHours(50) });
    expect(dates.length).toBeGreaterThanOrEqual(52);
    const seen: number[] = [];
    let after: { startMs: number; id: number } | null = null;
    do {
      const page: Awaited<ReturnType<typeof calendarPage>> = await calendarPage(db, member(people[0]!), {
        everybodys: false,
        after,
      });
      seen.push(...page.dates.filter((date) => date.sessionId === id).map((date) => date.id));
      after = page.next;
    } while (after);
    expect(seen.sort((a, b) => a - b)).toEqual(dates.map((date) => date.id).sort((a, b) => a - b));
    expect(await layAhead(db)).toBe(0);
    // As it will be when half a year has passed: the last dates are not there yet.
    await db.raw('DELETE FROM session_dates WHERE session_id = ? AND starts_at > NOW() + INTERVAL 180 DAY', [
      id,
    ]);
    await db.raw('UPDATE calendar_sessions SET laid_to = NOW() + INTERVAL 180 DAY WHERE id = ?', [id]);
    expect(await layAhead(db)).toBe(1);
    expect(await countOf(db, 'FROM session_dates WHERE session_id = ?', [id])).toBe(dates.length);
    await callOffSession(db, coordinator, id, '');
  });

  it('that would never take place is refused, and shown beforehand with how many it is for', async () => {
    const gone = input({ wall: inHours(-2) });
    await expect(makeSession(db, coordinator, gone)).rejects.toMatchObject({
      status: 422,
      errors: [{ field: 'wall' }],
    });
    expect(
      await tryDates(db, coordinator, { wall: gone.wall, zone: gone.zone, rule: null, audience }),
    ).toEqual({
      starts: [],
      never: 'That time has passed. Choose one that is still to come.',
      people: 6,
    });
    const tried = await tryDates(db, coordinator, { ...gone, rule: WEEKLY, audience: null });
    expect(tried).toMatchObject({ never: null, people: null });
    expect(tried.starts).toHaveLength(5);
  });
});

describe('who comes', () => {
  it('is said, said otherwise and taken back, and counted', async () => {
    const date = await one();
    const [first, second] = [member(people[0]!), member(people[1]!)];
    expect(await sayOfDate(db, first, date.id, 'yes')).toMatchObject({ mine: 'yes', coming: 1 });
    await sayOfDate(db, second, date.id, 'perhaps');
    expect(await sayOfDate(db, second, date.id, 'no')).toMatchObject({ mine: 'no', coming: 1, perhaps: 0 });
    expect(await sayOfDate(db, first, date.id, null)).toMatchObject({ mine: null, coming: 0 });
  });

  it('is at most as many as there is room for, however many say so at once; who waits longest gets what comes free', async () => {
    const date = await one({ capacity: 2 });
    await Promise.all(people.slice(0, 6).map((id) => sayOfDate(db, member(id), date.id, 'yes')));
    expect(await shownDate(db, coordinator, date.id)).toMatchObject({ coming: 2, waiting: 4 });
    const standing = () =>
      rows<{ id: number; stands: string }>(
        db,
        'SELECT person_id AS id, stands FROM session_answers WHERE date_id = ? ORDER BY said_at, person_id',
        [date.id],
      );
    const before = await standing();
    const comes = before.find((row) => row.stands === 'yes')!.id;
    const next = before.find((row) => row.stands === 'waiting')!.id;
    // Saying it again keeps the place in the line.
    await sayOfDate(db, member(next), date.id, 'yes');
    await sayOfDate(db, member(comes), date.id, 'no');
    expect(await shownDate(db, member(next), date.id)).toMatchObject({ mine: 'yes', coming: 2, waiting: 3 });
    expect(await told(next, 'There is a place for you%')).toBe(1);
    // Whoever comes and leaves the house leaves their place to the next.
    await changeStanding(db, coordinator, next, true);
    await fillFreePlaces(db);
    expect(await shownDate(db, coordinator, date.id)).toMatchObject({ coming: 2, waiting: 2 });
    await changeStanding(db, coordinator, next, false);
    // More room takes more of them.
    await change(date.sessionId, { wall: wallAt(date.startMs, date.zone), capacity: 10 });
    expect(await shownDate(db, coordinator, date.id)).toMatchObject({ waiting: 0 });
  });

  it('can be addressed, has a list with those who have said nothing, and a board of its own that follows', async () => {
    const date = await one({ title: '=Drill' });
    await sayOfDate(db, member(people[0]!), date.id, 'yes');
    await sayOfDate(db, member(people[1]!), date.id, 'no');
    const now = await audienceContext(db);
    const who = (stands: 'yes' | 'no') => countPeople(db, { kind: 'session', dateId: date.id, stands }, now);
    expect([await who('yes'), await who('no')]).toEqual([1, 1]);
    // The plain reading says the same of each as the database does.
    for (const stands of STANDS) {
      const asked: Audience = { kind: 'session', dateId: date.id, stands };
      const facts = await factsOf(db, people, asked, now);
      expect(
        [...facts.values()].filter((person) => includes(asked, person, now)),
        stands,
      ).toHaveLength(await countPeople(db, asked, now));
    }
    const page = await participantPage(db, coordinator, date.id, { stands: 'silent', after: null });
    expect(page.counts).toEqual({ yes: 1, no: 1, perhaps: 0, waiting: 0, silent: 4 });
    expect(page.people.map((person) => person.personId).sort()).toEqual(people.slice(2, 6).sort());
    const csv = await new Response(await participantsCsv(db, coordinator, date.id)).text();
    expect(csv.trim().split('\r\n')).toHaveLength(7);
    expect(csv).toContain('nothing said');
    const [board, again] = await Promise.all([
      boardForDate(db, coordinator, date.id),
      boardForDate(db, coordinator, date.id),
    ]);
    expect(again).toBe(board);
    const [{ groupId } = { groupId: 0 }] = await rows<{ groupId: number }>(
      db,
      'SELECT group_id AS groupId FROM boards WHERE id = ?',
      [board],
    );
    const inIt = async () => countPeople(db, { kind: 'group', id: groupId }, await audienceContext(db));
    expect(await inIt()).toBe(1);
    await sayOfDate(db, member(people[2]!), date.id, 'yes');
    expect(await inIt()).toBe(2);
  });
});

describe('a change', () => {
  it('of the hour takes along what was said, tells whoever has not said no, and is refused over somebody else’s', async () => {
    const date = await one();
    await sayOfDate(db, member(people[0]!), date.id, 'yes');
    await sayOfDate(db, member(people[1]!), date.id, 'no');
    const wall = wallAt(date.startMs + 3_600_000, date.zone);
    await change(date.sessionId, { wall });
    expect(await shownDate(db, member(people[0]!), date.id)).toMatchObject({
      startMs: date.startMs + 3_600_000,
      mine: 'yes',
    });
    expect(await told(people[0]!, '%has changed')).toBe(1);
    expect(await told(people[2]!, '%has changed')).toBe(1);
    expect(await told(people[1]!, '%has changed')).toBe(0);
    expect(await told(people[7]!, '%has changed')).toBe(0);
    await expect(
      changeSession(db, coordinator, date.sessionId, { ...input({ wall }), revision: 1 }),
    ).rejects.toMatchObject({ status: 409, more: { revision: 2 } });
  });

  it('of one date stays when the session is changed, and an empty place is no news', async () => {
    // In the morning, so that half an hour later is the same day at whatever hour this runs.
    const wall = `${inHours(48).slice(0, 10)}T09:00`;
    const { id, dates } = await make({ wall, rule: { ...WEEKLY, end: { kind: 'count', count: 4 } } });
    const [first, second] = dates;
    await changeOneDate(db, coordinator, second!.id, {
      wall: wallAt(second!.startMs + 86_400_000, ZONE),
      minutes: 90,
      place: 'The shed',
      link: '',
      note: 'The vault is being painted.',
    });
    expect(await told(people[0]!, '%is moved')).toBe(1);
    const page = await change(id, {
      wall: wallAt(first!.startMs + 1_800_000, ZONE),
      rule: { ...WEEKLY, end: { kind: 'count', count: 4 } },
      minutes: 45,
      place: 'The vault',
    });
    expect(page.dates.find((date) => date.id === second!.id)).toMatchObject({
      startMs: second!.startMs + 86_400_000,
      minutes: 90,
      place: 'The shed',
    });
    expect(page.dates.find((date) => date.id === first!.id)).toMatchObject({
      startMs: first!.startMs + 1_800_000,
      minutes: 45,
    });
    expect(page.dates).toHaveLength(4);
    await expect(
      changeOneDate(db, coordinator, first!.id, {
        wall: inHours(-1),
        minutes: 60,
        place: '',
        link: '',
        note: '',
      }),
    ).rejects.toMatchObject({ status: 422, errors: [{ field: 'wall' }] });
  });

  it('that calls off what somebody has answered leaves it in sight; a date can take place again, a session called off cannot', async () => {
    const { id, dates } = await make({ rule: { ...WEEKLY, end: { kind: 'count', count: 3 } } });
    const [first, second] = dates;
    await callOffDate(db, coordinator, first!.id, { off: true, note: 'Nobody has the key.' });
    expect(await shownDate(db, member(people[0]!), first!.id)).toMatchObject({
      calledOff: true,
      note: 'Nobody has the key.',
    });
    await expect(sayOfDate(db, member(people[0]!), first!.id, 'yes')).rejects.toMatchObject({ status: 409 });
    await callOffDate(db, coordinator, first!.id, { off: false, note: '' });
    await sayOfDate(db, member(people[0]!), first!.id, 'yes');
    await callOffSession(db, coordinator, id, 'The season is over.');
    expect((await sessionPage(db, coordinator, id)).dates.every((date) => date.calledOff)).toBe(true);
    expect(await told(people[0]!, '%is called off')).toBe(2);
    await expect(callOffDate(db, coordinator, second!.id, { off: false, note: '' })).rejects.toMatchObject({
      status: 409,
    });
  });
});

describe('reminders', () => {
  it('go once to whoever has not said no, by however many engines, and not of what has begun', async () => {
    const date = await one({ wall: inHours(1), remindMinutes: 120 });
    await sayOfDate(db, member(people[1]!), date.id, 'no');
    const begun = await one({ wall: inHours(1), remindMinutes: 120 });
    await db.raw('UPDATE session_dates SET starts_at = NOW(3) - INTERVAL 1 MINUTE WHERE id = ?', [begun.id]);
    await Promise.all([remindOfSessions(db), remindOfSessions(db), remindOfSessions(db)]);
    expect(await told(people[0]!, `${date.title} begins in %`)).toBe(1);
    expect(await told(people[1]!, `${date.title} begins in %`)).toBe(0);
    expect(await told(people[0]!, `${begun.title}%`)).toBe(0);
    expect(await remindOfSessions(db)).toBe(0);
    // Moved further away it is reminded of again, at its new time.
    await change(date.sessionId, { wall: inHours(5), remindMinutes: 120 });
    expect(await remindOfSessions(db)).toBe(0);
    await db.raw('UPDATE session_dates SET remind_at = NOW(3) WHERE id = ?', [date.id]);
    expect(await remindOfSessions(db)).toBe(1);
    expect(await told(people[0]!, `${date.title} begins in %`)).toBe(2);
  });
});

describe('a calendar program', () => {
  const eventsOf = (text: string) =>
    new ICAL.Component(ICAL.parse(text) as unknown[]).getAllSubcomponents('vevent').map((part) => ({
      uid: part.getFirstPropertyValue('uid'),
      sequence: part.getFirstPropertyValue('sequence'),
      status: part.getFirstPropertyValue('status'),
      summary: part.getFirstPropertyValue('summary'),
      start: (part.getFirstPropertyValue('dtstart') as ICAL.Time).toJSDate().getTime(),
    }));

  it('gets what is for its owner, follows what moves and what is called off, and forgets what they decline', async () => {
    const who = member(people[3]!);
    const key = await newSessionsKey(db, who);
    const date = await one({ title: 'Drill; with, signs\\ and "quotes"' });
    const mine = async () =>
      eventsOf(await sessionsFeed(db, key, URL_OF)).filter((event) =>
        String(event.uid).startsWith(`session-date-${date.id}@`),
      );
    expect(await mine()).toMatchObject([
      { start: date.startMs, status: 'CONFIRMED', summary: 'Drill; with, signs\\ and "quotes"' },
    ]);
    const [before] = await mine();
    await change(date.sessionId, { wall: wallAt(date.startMs + 3_600_000, date.zone) });
    const [moved] = await mine();
    expect(moved).toMatchObject({ uid: before!.uid, start: date.startMs + 3_600_000 });
    expect(Number(moved!.sequence)).toBeGreaterThan(Number(before!.sequence ?? 0));
    await callOffDate(db, coordinator, date.id, { off: true, note: '' });
    expect(await mine()).toMatchObject([{ uid: before!.uid, status: 'CANCELLED' }]);
    await callOffDate(db, coordinator, date.id, { off: false, note: '' });
    await sayOfDate(db, who, date.id, 'no');
    expect(await mine()).toEqual([]);
    expect(eventsOf(await dateFile(db, who, date.id, URL_OF))).toHaveLength(1);
  });

  it('is told that nothing changed, and nothing at all with an old key or once its owner has left', async () => {
    const who = member(people[4]!);
    const key = await newSessionsKey(db, who);
    const text = await sessionsFeed(db, key, URL_OF);
    const first = calendarResponse(new Request(URL_OF), text);
    const again = calendarResponse(
      new Request(URL_OF, { headers: { 'if-none-match': first.headers.get('etag')! } }),
      await sessionsFeed(db, key, URL_OF),
    );
    expect([first.status, again.status]).toEqual([200, 304]);
    const newer = await newSessionsKey(db, who);
    await expect(sessionsFeed(db, key, URL_OF)).rejects.toMatchObject({ status: 404 });
    await changeStanding(db, coordinator, who.id, true);
    await expect(sessionsFeed(db, newer, URL_OF)).rejects.toMatchObject({ status: 404 });
    await changeStanding(db, coordinator, who.id, false);
  });
});

describe('an announcement of a session', () => {
  it('begins with what the session says, and its reader says from the mail whether they come', async () => {
    const date = await one({ title: 'Harvest day', text: 'Bring boots.\nAnd a hat.' });
    const { id } = await announceDate(db, coordinator, date.id);
    const draft = await announcementById(db, id);
    expect(draft).toMatchObject({
      content: { title: 'Harvest day', event: { sessionDateId: date.id, place: 'The vault' } },
      plan: { audience },
    });
    const occurrenceId = await sendNow(db, {}, { title: 'Harvest day', event: draft!.content.event });
    const link = (personId: number) =>
      signLink(SECRET, { purpose: 'coming', occurrenceId, personId }, Date.now());
    const page = await openComing(db, SECRET, link(people[5]!));
    if (page.state !== 'good') throw new Error(page.state);
    expect(page.date).toMatchObject({ id: date.id, mine: null });
    expect(await sayByLink(db, page, 'yes')).toMatchObject({ mine: 'yes' });
    expect(await countOf(db, "FROM session_answers WHERE date_id = ? AND via = 'mail'", [date.id])).toBe(1);
    // A copy to a linked contact asks nothing, and their calendar knows the date by its own name.
    const occurrence = await occurrenceById(db, occurrenceId);
    const { letter, copy, calendar } = await layOut(db, URL_OF, {
      ...occurrence!,
      plan: { ...occurrence!.plan, contacts: true },
    });
    const fields = {
      why: '',
      readUrl: '',
      answerUrl: '',
      unsubscribeUrl: '',
      passOnUrl: '',
      comingUrl: `${URL_OF}/m/coming/x`,
      deadline: '',
      reader: { name: '', greeting: '', station: null, occupation: '', zone: 'UTC', atMs: 0, eventMs: null },
    };
    for (const part of ['html', 'text'] as const) {
      expect(letter(fields)[part]).toContain('/m/coming/x?said=perhaps');
      expect(copy(fields)[part]).not.toContain('/m/coming/');
      expect(copy(fields)[part]).toContain('The vault');
    }
    expect(calendar).toContain(`UID:session-date-${date.id}@bell.example`);
    // Whoever it is not for can read what they were sent, and say nothing of it.
    expect(await openComing(db, SECRET, link(people[7]!))).toEqual({ state: 'gone' });
    expect(await openComing(db, SECRET, `${link(people[5]!)}x`)).toEqual({ state: 'altered' });
  });

  it('goes with its date: so long before it as it is then, with its time, and not at all when it is called off', async () => {
    const date = await one({ title: 'Moved day' });
    const { id } = await announceDate(db, coordinator, date.id);
    const other = await announceDate(db, coordinator, date.id);
    const draft = (await announcementById(db, id))!;
    const revision = await saveDraft(db, coordinator, id, {
      content: draft.content,
      plan: { ...draft.plan, timing: { kind: 'before event', minutes: 120 } },
      revision: draft.revision,
      saveOver: false,
    });
    const { occurrenceId } = await confirmSend(db, coordinator, id, revision, `moved-${id}`);
    const planned = async () => {
      await followAll(db);
      const occurrence = (await occurrenceById(db, occurrenceId))!;
      const event = (await versionById(db, occurrence.versionId))!.event!;
      const [bucket] = await rows<{ due: Date }>(
        db,
        'SELECT due_at AS due FROM buckets WHERE occurrence_id = ?',
        [occurrenceId],
      );
      return { state: occurrence.state, event: eventSpan(event).startMs, due: bucket!.due.getTime() };
    };
    const at = (startMs: number) => ({ state: 'scheduled', event: startMs, due: startMs - 120 * 60_000 });
    expect(await planned()).toEqual(at(date.startMs));
    const change = { minutes: 60, place: 'The attic', link: '', note: '' };
    const later = await changeOneDate(db, coordinator, date.id, { ...change, wall: inHours(72) });
    expect(later.startMs).toBeGreaterThan(date.startMs);
    expect(await planned()).toEqual(at(later.startMs));
    // What is being written of it says so too, and whoever has it open does not save over that unknowing.
    expect(await announcementById(db, other.id)).toMatchObject({
      content: { event: { place: 'The attic' } },
      revision: 3,
    });
    const told = "FROM notices WHERE person_id = 1 AND title LIKE '“Moved day”%'";
    expect(await countOf(db, told)).toBe(1);
    await callOffDate(db, coordinator, date.id, { off: true, note: 'No lids' });
    expect(await planned()).toMatchObject({ state: 'recalled' });
    expect(await announcementById(db, id)).toMatchObject({ state: 'draft' });
    expect(await countOf(db, told)).toBe(2);
  });
});
