import type { Audience } from '../core/audience/expression.ts';
import { datesAfter } from '../core/calendar/dates.ts';
import type { SessionInput } from '../core/calendar/session.ts';
import { WEEKLY, type Rule } from '../core/timing/rule.ts';
import { dateAt, dayAfter } from '../core/timing/wallTime.ts';
import { datesOf, insertDates, putAnswer } from '../server/calendar/dateStore.ts';
import { insertSession } from '../server/calendar/store.ts';
import type { Database } from '../server/database/connection.ts';
import type { DemoPeople } from './people.ts';

const DAY_MS = 86_400_000;
const LONDON = 'Europe/London';
const EXCHANGE_DAYS: Rule = { ...WEEKLY, weekdays: ['TH'] };
const FIRST_WEDNESDAY: Rule = {
  ...WEEKLY,
  freq: 'monthly',
  monthly: { by: 'position', position: 1, weekday: 'WE' },
};

/** What the network gathers for: a weekly exchange, vault drills, a harvest day that is full, and an open morning. */
export async function layCalendar(
  db: Database,
  nowMs: number,
  people: DemoPeople,
  groups: ReadonlyMap<string, number>,
): Promise<void> {
  const inDays = (days: number, time: string): string => `${dayAfter(dateAt(nowMs, LONDON), days)}T${time}`;
  const group = (name: string): Audience => ({ kind: 'group', id: groups.get(name) ?? 0 });
  const maud = people.byMail('maud');
  const lay = async (input: SessionInput): Promise<number[]> => {
    const id = await insertSession(db, input, maud, nowMs + 366 * DAY_MS);
    await insertDates(db, id, datesAfter(input, nowMs), input);
    return (await datesOf(db, [id], { endAfterMs: nowMs }, 1)).map((date) => date.id);
  };
  const say = async (dateId: number | undefined, ids: readonly number[], room: number): Promise<void> => {
    if (dateId === undefined) return;
    for (const [at, personId] of ids.entries())
      await putAnswer(db, {
        dateId,
        personId,
        stands: at % 7 === 5 ? 'no' : at % 7 === 3 ? 'perhaps' : at < room ? 'yes' : 'waiting',
        via: at % 3 === 0 ? 'mail' : 'page',
      });
  };
  const [exchange] = await lay({
    title: 'Thursday exchange',
    text: 'What came in, what germinated, what is short. Notes are written as we speak.',
    wall: inDays(-7, '16:00'),
    zone: LONDON,
    minutes: 45,
    place: '',
    link: 'https://rooms.thistledown.example/exchange',
    rule: EXCHANGE_DAYS,
    audience: { kind: 'everyone' },
    capacity: null,
    remindMinutes: 30,
  });
  const [drill] = await lay({
    title: 'Vault drill',
    text: 'We open the vault as if the power had failed: torches, lids, labels, the paper log.',
    wall: inDays(-31, '10:00'),
    zone: LONDON,
    minutes: 90,
    place: 'Before the vault door',
    link: '',
    rule: FIRST_WEDNESDAY,
    audience: group('Vault keyholders'),
    capacity: 24,
    remindMinutes: 1440,
  });
  const [harvest] = await lay({
    title: 'Harvest day',
    text: 'Boots, a hat, water. Envelopes and labels are there. The van leaves the yard at eight.',
    wall: inDays(9, '08:30'),
    zone: LONDON,
    minutes: 360,
    place: 'The lower meadow',
    link: '',
    rule: null,
    audience: { kind: 'everyone' },
    capacity: 12,
    remindMinutes: 2880,
  });
  const [morning] = await lay({
    title: 'Online open morning',
    text: 'For whoever wants to know how the network lends seed. Bring somebody along.',
    wall: inDays(16, '10:00'),
    zone: LONDON,
    minutes: 120,
    place: '',
    link: 'https://rooms.thistledown.example/open-morning',
    rule: null,
    audience: { kind: 'everyone' },
    capacity: null,
    remindMinutes: 60,
  });
  const ids = people.all.map((person) => person.id);
  await say(exchange, ids.slice(10, 50), 100);
  await say(drill, ids.slice(3, 8), 24);
  await say(harvest, ids.slice(20, 40), 16);
  await say(morning, ids.slice(12, 70), 100);
}
