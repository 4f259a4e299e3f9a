import { createHash } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { freePort } from '../../scripts/house/ports.ts';
import type { FollowedInput } from '../../src/core/calendar/followedSchema.ts';
import type { Audience } from '../../src/core/audience/expression.ts';
import { sayOfDate } from '../../src/server/calendar/answering.ts';
import {
  callOffDate,
  callOffSession,
  changeOneDate,
  changeSession,
} from '../../src/server/calendar/making.ts';
import { calendarPage, sessionPage } from '../../src/server/calendar/reading.ts';
import { change, rows, type Database } from '../../src/server/database/connection.ts';
import { readDue } from '../../src/server/followed/reading.ts';
import {
  changeFollowing,
  follow,
  followNoMore,
  listFollowed,
  readNow,
  tryCalendar,
} from '../../src/server/followed/service.ts';
import { addGroup, addPeople, coordinator, countOf, freshDatabase } from './world.ts';

let db: Database;
let people: number[];
let audience: Audience;
let site: Server;
let origin: string;
/** What the calendar elsewhere answers. */
let said: { status: number; body: string; headers?: Record<string, string> };
let asked: (string | undefined)[] = [];

beforeAll(async () => {
  ({ db } = await freshDatabase('followed'));
  people = await addPeople(db, 6, 1);
  audience = { kind: 'group', id: await addGroup(db, 'Walkers', people) };
  const port = await freePort();
  origin = `http://127.0.0.1:${port}`;
  site = createServer((request, response) => {
    asked.push(request.headers['if-none-match']);
    const etag = `"${createHash('sha256').update(said.body).digest('base64url')}"`;
    if (said.status === 200 && request.headers['if-none-match'] === etag) response.writeHead(304).end();
    else response.writeHead(said.status, { etag, ...said.headers }).end(said.body);
  });
  await new Promise<void>((resolve) => site.listen(port, '127.0.0.1', resolve));
});
afterAll(async () => {
  site.closeAllConnections();
  site.close();
  await db.destroy();
});
beforeEach(async () => {
  for (const table of ['followed_calendars', 'calendar_sessions', 'notices']) await db(table).delete();
  asked = [];
});

const DAY_MS = 86_400_000;
const utc = (days: number, hour = 10): string =>
  `${new Date(Date.now() + days * DAY_MS).toISOString().slice(0, 10).replaceAll('-', '')}T${String(hour).padStart(2, '0')}0000Z`;
const event = (uid: string, ...lines: string[]): string[] => [
  'BEGIN:VEVENT',
  `UID:${uid}`,
  `SUMMARY:${uid}`,
  ...lines,
  'END:VEVENT',
];
const calendar = (...lines: string[]): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//x//EN',
    'X-WR-CALNAME:Sites',
    ...lines,
    'END:VCALENDAR',
    '',
  ].join('\r\n');
const says = (...lines: string[]): void => {
  said = { status: 200, body: calendar(...lines) };
};
const walk = (hour: number, ...more: string[]): string[] =>
  event(
    'walk',
    `DTSTART:${utc(3, hour)}`,
    'DURATION:PT1H',
    'RRULE:FREQ=WEEKLY;COUNT=4',
    'LOCATION:Weir',
    ...more,
  );
const input = (part: Partial<FollowedInput> = {}): FollowedInput => ({
  url: `${origin}/calendar.ics`,
  text: null,
  name: 'The sites',
  everyMinutes: 60,
  audience,
  remindMinutes: 60,
  ...part,
});
const inside = () => [origin];
const begin = (part: Partial<FollowedInput> = {}) => follow(db, coordinator, input(part), inside());
const due = async (): Promise<void> => {
  await change(db, 'UPDATE followed_calendars SET try_at = NOW(3), laid_at = laid_at - INTERVAL 0 DAY');
  await readDue(db, inside(), (error) => {
    throw error;
  });
};
const sessions = () =>
  rows<{ id: number; title: string; calledOff: number }>(
    db,
    'SELECT id, title, called_off_at IS NOT NULL AS calledOff FROM calendar_sessions ORDER BY title',
  );
const pageOf = async (title: string) => {
  const found = (await sessions()).find((session) => session.title === title);
  if (!found) throw new Error(`There is no session ${title}.`);
  return sessionPage(db, coordinator, found.id);
};
const one = async () => (await listFollowed(db, coordinator))[0]!;
const told = (title: string): Promise<number> => countOf(db, 'FROM notices WHERE title LIKE ?', [title]);

describe('a calendar that is followed', () => {
  it('puts its sessions in, for whom it is said, and asks only for what changed', async () => {
    says(
      ...walk(9),
      ...event('past', `DTSTART:${utc(-30)}`),
      ...event('off', `DTSTART:${utc(5)}`, 'STATUS:CANCELLED'),
    );
    await begin();
    expect((await sessions()).map(({ title }) => title)).toEqual(['walk']);
    const page = await pageOf('walk');
    expect(page).toMatchObject({
      place: 'Weir',
      minutes: 60,
      remindMinutes: 60,
      followedName: 'The sites',
      people: 6,
    });
    expect(page.dates).toHaveLength(4);
    expect(
      (
        await calendarPage(
          db,
          { ...coordinator, id: people[0]!, role: 'member' },
          { everybodys: false, after: null },
        )
      ).dates,
    ).toHaveLength(4);
    await due();
    await due();
    expect(asked).toEqual([undefined, expect.stringMatching(/^"/), expect.stringMatching(/^"/)]);
    expect(await one()).toMatchObject({ sessions: 1, trouble: null, warnings: [] });
    expect(await countOf(db, 'FROM session_dates WHERE sequence > 0')).toBe(0);
    expect(await told('%')).toBe(0);
  });

  it('moves, calls off and lets take place what does so there; what was said stays, and they are told once', async () => {
    says(...walk(9));
    await begin();
    const first = (await pageOf('walk')).dates[0]!;
    const walker = { ...coordinator, id: people[0]!, role: 'member' as const };
    await sayOfDate(db, walker, first.id, 'yes');
    says(...walk(11));
    await due();
    const moved = await pageOf('walk');
    expect(moved.dates[0]).toMatchObject({ id: first.id, startMs: first.startMs + 2 * 3_600_000, coming: 1 });
    // Four dates moved: one notice each, and not four.
    expect(await told('walk has changed')).toBe(6);
    await due();
    expect(await told('%')).toBe(6);

    const second = utc(10, 11);
    says(...walk(11), ...event('walk', `RECURRENCE-ID:${second}`, `DTSTART:${second}`, 'STATUS:CANCELLED'));
    await due();
    expect((await pageOf('walk')).dates.map((date) => date.calledOff)).toEqual([false, true, false, false]);
    expect(await told('walk is called off')).toBe(6);
    says(...walk(11));
    await due();
    expect(await told('walk takes place after all')).toBe(6);

    says(
      ...walk(11).map((line) => (line === 'LOCATION:Weir' ? 'LOCATION:Ford' : line)),
      'BEGIN:VEVENT',
      'UID:new',
      'SUMMARY:new',
      `DTSTART:${utc(2)}`,
      'END:VEVENT',
    );
    await due();
    expect((await pageOf('walk')).dates.map((date) => date.place)).toEqual(Array(4).fill('Ford'));
    expect((await sessions()).map(({ title }) => title)).toEqual(['new', 'walk']);

    says(...walk(11, 'STATUS:CANCELLED'));
    await due();
    expect(await sessions()).toEqual([expect.objectContaining({ title: 'walk', calledOff: 1 })]);
    expect((await pageOf('walk')).dates.every((date) => date.calledOff)).toBe(true);
    says(...walk(11));
    await due();
    expect((await pageOf('walk')).dates.some((date) => date.calledOff)).toBe(false);
  });

  it('calls off what is gone where somebody said something of it, and drops the rest', async () => {
    says(...walk(9), ...event('meeting', `DTSTART:${utc(4)}`));
    await begin();
    const dates = (await pageOf('walk')).dates;
    await sayOfDate(db, { ...coordinator, id: people[1]!, role: 'member' }, dates[2]!.id, 'yes');
    says();
    await due();
    expect(await sessions()).toEqual([expect.objectContaining({ title: 'walk', calledOff: 1 })]);
    expect((await pageOf('walk')).dates.map(({ id, calledOff }) => [id, calledOff])).toEqual([
      [dates[2]!.id, true],
    ]);
    expect(await told('walk is called off')).toBe(6);
  });

  it('does not empty the calendar because something broke there, unless somebody says so', async () => {
    const five = [1, 2, 3, 4, 5].flatMap((n) => event(`meeting ${n}`, `DTSTART:${utc(n)}`));
    says(...five);
    const { id } = await begin();
    says(...event('meeting 1', `DTSTART:${utc(1)}`));
    await due();
    expect(await sessions()).toHaveLength(5);
    expect((await one()).trouble).toContain('4 of 5');
    await readNow(db, coordinator, id, inside());
    expect(await sessions()).toHaveLength(1);
    expect((await one()).trouble).toBeNull();
  });

  it.each([
    ['is down', { status: 503, body: '' }, '503'],
    ['is gone', { status: 410, body: '' }, '410'],
    [
      'moved',
      { status: 302, body: '', headers: { location: 'https://elsewhere.example/c.ics' } },
      'elsewhere.example',
    ],
    ['answers a page', { status: 200, body: '<html></html>' }, 'no iCalendar text'],
    ['is far too large', { status: 200, body: 'x'.repeat(5_100_000) }, '5 MB'],
  ])('keeps what it said while it %s, says why, and asks less and less', async (_, answer, why) => {
    says(...walk(9));
    await begin({ everyMinutes: 5 });
    said = answer;
    await due();
    expect((await one()).trouble).toContain(why);
    expect((await pageOf('walk')).dates).toHaveLength(4);
    const waits: number[] = [];
    for (let n = 0; n < 9; n++) {
      await due();
      const { nextMs } = await one();
      waits.push(Math.round(((nextMs ?? 0) - Date.now()) / 60_000));
    }
    expect(waits[0]).toBeGreaterThan(5);
    expect(waits.at(-1)).toBe(360);
    await expect(
      tryCalendar(db, coordinator, { url: `${origin}/x`, text: null }, inside()),
    ).rejects.toMatchObject({
      status: 422,
      errors: [{ field: 'url', detail: expect.stringContaining(why) as string }],
    });
    says(...walk(9));
    await due();
    expect((await one()).trouble).toBeNull();
  });

  it('is nowhere on the internal network but where the operator says', async () => {
    says(...walk(9));
    await expect(follow(db, coordinator, input(), [])).rejects.toMatchObject({
      status: 422,
      errors: [{ field: 'url', detail: expect.stringContaining('on the internal network') as string }],
    });
    expect(await listFollowed(db, coordinator)).toEqual([]);
  });

  it('is changed there and not here, but for whom it is, how many come and when to remind', async () => {
    says(...walk(9));
    await begin();
    const { id, revision, title, text, wall, zone, minutes, place, link, rule, dates, ...page } =
      await pageOf('walk');
    const its = {
      title,
      text,
      wall,
      zone,
      minutes,
      place,
      link,
      rule,
      audience: page.audience,
      capacity: null,
      remindMinutes: 60,
    };
    await expect(
      changeSession(db, coordinator, id, { ...its, place: 'Elsewhere', revision }),
    ).rejects.toMatchObject({ status: 409 });
    await expect(callOffSession(db, coordinator, id, '')).rejects.toMatchObject({ status: 409 });
    await expect(callOffDate(db, coordinator, dates[0]!.id, { off: true, note: '' })).rejects.toMatchObject({
      status: 409,
    });
    await expect(
      changeOneDate(db, coordinator, dates[0]!.id, { wall, minutes, place, link, note: '' }),
    ).rejects.toMatchObject({ status: 409 });
    await changeSession(db, coordinator, id, { ...its, capacity: 3, remindMinutes: 30, revision });
    await due();
    says(...walk(12));
    await due();
    expect(await pageOf('walk')).toMatchObject({ capacity: 3, remindMinutes: 30 });
  });

  it('lets its sessions stay as our own, or go', async () => {
    says(...walk(9));
    const first = await begin();
    await followNoMore(db, coordinator, first.id, true);
    expect(await pageOf('walk')).toMatchObject({ followedName: null });
    await callOffSession(db, coordinator, (await pageOf('walk')).id, '');
    await db('calendar_sessions').delete();
    const second = await begin();
    await followNoMore(db, coordinator, second.id, false);
    expect(await sessions()).toEqual([]);
    expect(await listFollowed(db, coordinator)).toEqual([]);
  });

  it('comes as a file as well, and as another file in its place', async () => {
    await expect(begin({ url: null, text: 'nothing' })).rejects.toMatchObject({
      errors: [{ field: 'text' }],
    });
    const { id } = await begin({ url: null, text: calendar(...walk(9)) });
    await due();
    expect((await pageOf('walk')).dates).toHaveLength(4);
    const { revision } = await one();
    const again = { ...input({ url: null, text: calendar(...walk(10)) }), revision };
    await changeFollowing(db, coordinator, id, again, inside());
    await expect(changeFollowing(db, coordinator, id, again, inside())).rejects.toMatchObject({
      status: 409,
    });
    expect(new Date((await pageOf('walk')).dates[0]!.startMs).getUTCHours()).toBe(10);
  });

  it('is read once however many engines look', async () => {
    says(...[...Array(40).keys()].flatMap((n) => event(`meeting ${n}`, `DTSTART:${utc(n + 1)}`)));
    await begin();
    asked = [];
    await change(db, 'UPDATE followed_calendars SET try_at = NOW(3), etag = NULL');
    await Promise.all([1, 2, 3, 4].map(() => readDue(db, inside(), () => undefined)));
    expect(asked).toHaveLength(1);
    expect(await sessions()).toHaveLength(40);
  });
});
