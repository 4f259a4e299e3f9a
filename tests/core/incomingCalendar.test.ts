import fc from 'fast-check';
import ical from 'ical-generator';
import { describe, expect, it } from 'vitest';
import { CalendarProblem, namedZone, readCalendar } from '../../src/core/calendar/incoming.ts';

const at = (iso: string): number => Date.parse(iso);
const SPAN = { zone: 'Europe/London', fromMs: at('2026-01-01T00:00Z'), toMs: at('2027-01-01T00:00Z') };
const wrapped = (...lines: string[]): string =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//test//EN', ...lines, 'END:VCALENDAR', ''].join('\r\n');
const event = (...lines: string[]): string[] => [
  'BEGIN:VEVENT',
  'UID:one',
  'SUMMARY:Drill',
  ...lines,
  'END:VEVENT',
];
const read = (...lines: string[]) => readCalendar(wrapped(...lines), SPAN);
const starts = (...lines: string[]): string[] =>
  read(...event(...lines)).sessions.flatMap(({ dates }) =>
    dates.map(({ startMs }) => new Date(startMs).toISOString()),
  );

describe('what another calendar says', () => {
  it('keeps its hour across a change of the clock', () => {
    expect(
      starts('DTSTART;TZID=Europe/Berlin:20261022T090000', 'DURATION:PT1H', 'RRULE:FREQ=WEEKLY;COUNT=2'),
    ).toEqual(['2026-10-22T07:00:00.000Z', '2026-10-29T08:00:00.000Z']);
  });

  it('leaves out, adds and moves single dates', () => {
    const { sessions } = read(
      ...event(
        'DTSTART;TZID=Europe/Berlin:20260105T090000',
        'DTEND;TZID=Europe/Berlin:20260105T103000',
        'RRULE:FREQ=DAILY;COUNT=4',
        'EXDATE;TZID=Europe/Berlin:20260106T090000',
        'RDATE;TZID=Europe/Berlin:20260110T120000',
        'LOCATION:Hall',
      ),
      ...event(
        'RECURRENCE-ID;TZID=Europe/Berlin:20260107T090000',
        'DTSTART;TZID=Europe/Berlin:20260107T140000',
        'DTEND;TZID=Europe/Berlin:20260107T143000',
        'LOCATION:Yard',
      ),
      ...event(
        'RECURRENCE-ID:20260108T080000Z',
        'DTSTART;TZID=Europe/Berlin:20260108T090000',
        'STATUS:CANCELLED',
      ),
    );
    expect(sessions).toHaveLength(1);
    expect(sessions[0]).toMatchObject({
      zone: 'Europe/Berlin',
      wall: '2026-01-05T09:00',
      minutes: 90,
      recurs: true,
    });
    expect(
      sessions[0]?.dates.map(({ meant, startMs, minutes, place, calledOff }) => [
        meant,
        new Date(startMs).toISOString().slice(5, 16),
        minutes,
        place,
        calledOff,
      ]),
    ).toEqual([
      ['2026-01-05T09:00', '01-05T08:00', 90, 'Hall', false],
      ['2026-01-07T09:00', '01-07T13:00', 30, 'Yard', false],
      ['2026-01-08T09:00', '01-08T08:00', 30, '', true],
      ['2026-01-10T12:00', '01-10T11:00', 90, 'Hall', false],
    ]);
  });

  it('tells what is taken out by its instant or its day, and what is changed from a date on', () => {
    expect(
      starts(
        'DTSTART;TZID=Europe/Berlin:20260105T090000',
        'DTEND:20260105T090000Z',
        'RRULE:FREQ=DAILY;COUNT=4',
        'EXDATE:20260106T080000Z',
        'EXDATE;VALUE=DATE:20260108',
      ),
    ).toEqual(['2026-01-05T08:00:00.000Z', '2026-01-07T08:00:00.000Z']);
    const later = read(
      ...event('DTSTART;TZID=Europe/Berlin:20260105T090000', 'DURATION:PT1H', 'RRULE:FREQ=DAILY;COUNT=4'),
      ...event(
        'RECURRENCE-ID;RANGE=THISANDFUTURE;TZID=Europe/Berlin:20260107T090000',
        'DTSTART;TZID=Europe/Berlin:20260107T110000',
        'DURATION:PT2H',
        'LOCATION:Yard',
      ),
    );
    expect(
      later.sessions[0]?.dates.map(({ startMs, minutes, place }) => [
        new Date(startMs).toISOString().slice(5, 16),
        minutes,
        place,
      ]),
    ).toEqual([
      ['01-05T08:00', 60, ''],
      ['01-06T08:00', 60, ''],
      ['01-07T10:00', 120, 'Yard'],
      ['01-08T10:00', 120, 'Yard'],
    ]);
  });

  it.each([
    ['Europe/Berlin', 'Europe/Berlin'],
    ['W. Europe Standard Time', 'Europe/Berlin'],
    ['/freeassociation.sourceforge.net/Europe/Madrid', 'Europe/Madrid'],
    ['/x/20050126_1/America/Argentina/Salta', 'America/Argentina/Salta'],
    ['Nowhere/At All', null],
    ['', null],
  ])('knows the zone %s as %s', (tzid, zone) => {
    expect(namedZone(tzid)).toBe(zone);
  });

  it('takes a zone nobody knows from what the file says of it, and else says that it guessed', () => {
    const own = [
      'BEGIN:VTIMEZONE',
      'TZID:House time',
      'BEGIN:STANDARD',
      'DTSTART:19700101T000000',
      'TZOFFSETFROM:+0530',
      'TZOFFSETTO:+0530',
      'END:STANDARD',
      'END:VTIMEZONE',
    ];
    const drill = event('DTSTART;TZID=House time:20260601T120000', 'DURATION:PT1H');
    const described = read(...own, ...drill);
    expect(described.warnings).toEqual([]);
    expect(described.sessions[0]?.dates[0]?.startMs).toBe(at('2026-06-01T06:30Z'));
    const guessed = read(...drill);
    expect(guessed.warnings).toEqual([expect.stringContaining('House time')]);
    expect(guessed.sessions[0]?.dates[0]?.startMs).toBe(at('2026-06-01T11:00Z'));
  });

  it('reads whole days, times without an end, in UTC and of no zone', () => {
    expect(read(...event('DTSTART;VALUE=DATE:20260704')).sessions[0]).toMatchObject({
      minutes: 1440,
      dates: [{ startMs: at('2026-07-03T23:00Z') }],
    });
    expect(read(...event('DTSTART;VALUE=DATE:20260704', 'DTEND;VALUE=DATE:20260801')).warnings).toEqual([
      expect.stringContaining('longer than a week'),
    ]);
    expect(read(...event('DTSTART:20260704T100000')).sessions[0]).toMatchObject({
      minutes: 30,
      dates: [{ startMs: at('2026-07-04T09:00Z') }],
    });
    const utc = read('X-WR-TIMEZONE:America/New_York', ...event('DTSTART:20260704T100000Z'));
    expect(utc.sessions[0]).toMatchObject({ zone: 'America/New_York', wall: '2026-07-04T06:00' });
  });

  it('ends where it recurs without end, too often, or since too long ago', () => {
    const often = read(...event('DTSTART:19700101T000000Z', 'RRULE:FREQ=SECONDLY'));
    expect(often.sessions[0]?.dates).toEqual([]);
    expect(often.warnings).toEqual([expect.stringContaining('every minute or second')]);
    const hourly = read(...event('DTSTART:20260101T000000Z', 'RRULE:FREQ=HOURLY'));
    expect(hourly.sessions[0]?.dates).toHaveLength(400);
    expect(hourly.warnings).toEqual([expect.stringContaining('too often')]);
    const daily = read(...event('DTSTART;TZID=Europe/London:19900101T090000', 'RRULE:FREQ=DAILY'));
    expect(daily.sessions[0]?.dates).toHaveLength(365);
  });

  it('says what is no calendar, and leaves out only what cannot be read of one', () => {
    for (const text of ['', 'BEGIN:VCARD\r\nEND:VCARD', '<html></html>', 'BEGIN:VCALENDAR'])
      expect(() => readCalendar(text, SPAN)).toThrow(CalendarProblem);
    const some = read(
      ...event('DTSTART:20260704T100000'),
      'BEGIN:VEVENT',
      'SUMMARY:No id',
      'DTSTART:20260704T100000',
      'END:VEVENT',
      'BEGIN:VEVENT',
      'UID:two',
      'SUMMARY:No time',
      'END:VEVENT',
    );
    expect(some.sessions.map(({ title }) => title)).toEqual(['Drill']);
    expect(some.warnings).toHaveLength(2);
  });

  it('reads what another package wrote, to the minute', () => {
    const minute = fc.integer({
      min: at('2026-02-01T00:00Z') / 60_000,
      max: at('2026-11-01T00:00Z') / 60_000,
    });
    fc.assert(
      fc.property(
        fc.array(fc.tuple(minute, fc.integer({ min: 5, max: 600 })), { minLength: 1, maxLength: 8 }),
        (all) => {
          const calendar = ical({ name: 'House' });
          all.forEach(([start, minutes], i) =>
            calendar.createEvent({
              id: `event-${i}`,
              summary: `Event ${i}`,
              start: new Date(start * 60_000),
              end: new Date((start + minutes) * 60_000),
            }),
          );
          const found = readCalendar(calendar.toString(), SPAN);
          expect(found.warnings).toEqual([]);
          expect(
            found.sessions.map(({ dates, minutes }) => [(dates[0]?.startMs ?? 0) / 60_000, minutes]),
          ).toEqual(all);
        },
      ),
      { numRuns: 50 },
    );
  });
});
