import { dateSchema as calendarDate } from './bounds.ts';
import { z } from 'zod';
import { list } from '../words.ts';
import { wallTimeSchema } from './wallTimeSchema.ts';

export const WEEKDAYS = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] as const;
export type Weekday = (typeof WEEKDAYS)[number];

const WEEKDAY_WORDS: Record<Weekday, string> = {
  MO: 'Monday',
  TU: 'Tuesday',
  WE: 'Wednesday',
  TH: 'Thursday',
  FR: 'Friday',
  SA: 'Saturday',
  SU: 'Sunday',
};
export const weekdayWords = (day: Weekday): string => WEEKDAY_WORDS[day];

/** Most occurrences a rule may count, and most dates that may be left out or added by hand. */
export const MOST_COUNT = 10_000;
const MOST_DATES = 500;

const dateSchema = wallTimeSchema.or(
  z.string().regex(/^\d{4}-\d{2}-\d{2}$/, 'A date is needed, such as 2026-12-31'),
);

/**
 * How a send recurs: the parts of an RFC 5545 recurrence rule a coordinator sets, in wall-clock time. `except` are
 * the wall-clock times of occurrences left out (EXDATE), `added` those on top of the rule (RDATE).
 */
export const ruleSchema = z.object({
  freq: z.enum(['daily', 'weekly', 'monthly', 'yearly']),
  /** Every so many days, weeks, months or years. */
  every: z
    .int('Every how many is a whole number')
    .min(1, 'At least every one')
    .max(1000, 'At most every 1,000'),
  /** Weekly: on these days. Empty is the weekday it begins on. */
  weekdays: z.array(z.enum(WEEKDAYS)).max(7).default([]),
  /** Monthly: on a day of the month (−1 is the last), or on the nth such weekday (−1 is the last). */
  monthly: z
    .discriminatedUnion('by', [
      z.object({
        by: z.literal('day'),
        day: z
          .int()
          .min(-1)
          .max(31)
          .refine((day) => day !== 0, 'There is no day 0'),
      }),
      z.object({
        by: z.literal('position'),
        position: z
          .int()
          .min(-1)
          .max(5)
          .refine((nth) => nth !== 0, 'Say which: the first, or the last'),
        weekday: z.enum(WEEKDAYS),
      }),
    ])
    .nullable()
    .default(null),
  end: z
    .discriminatedUnion('kind', [
      z.object({ kind: z.literal('never') }),
      /** The last date on which it may go out. */
      z.object({ kind: z.literal('until'), date: calendarDate('2026-12-31') }),
      z.object({
        kind: z.literal('count'),
        count: z
          .int('How many times is a whole number')
          .min(1, 'At least once')
          .max(MOST_COUNT, 'At most 10,000 times; for more, let it go on without an end'),
      }),
    ])
    .default({ kind: 'never' }),
  except: z.array(dateSchema).max(MOST_DATES, `At most ${MOST_DATES} dates can be left out`).default([]),
  added: z.array(wallTimeSchema).max(MOST_DATES, `At most ${MOST_DATES} dates can be added`).default([]),
});
export type Rule = z.infer<typeof ruleSchema>;

export const WEEKLY: Rule = {
  freq: 'weekly',
  every: 1,
  weekdays: [],
  monthly: null,
  end: { kind: 'never' },
  except: [],
  added: [],
};

const compact = (wall: string): string =>
  `${wall.slice(0, 10)}T${wall.slice(11, 16) || '00:00'}`.replace(/[-:]/g, '');

/** The rule as the value of an RRULE property, RFC 5545 section 3.3.10, without EXDATE and RDATE. */
export function rruleText(rule: Rule): string {
  const parts = [`FREQ=${rule.freq.toUpperCase()}`];
  if (rule.every > 1) parts.push(`INTERVAL=${rule.every}`);
  if (rule.freq === 'weekly' && rule.weekdays.length > 0)
    parts.push(`BYDAY=${WEEKDAYS.filter((day) => rule.weekdays.includes(day)).join(',')}`);
  if (rule.freq === 'monthly' && rule.monthly)
    parts.push(
      rule.monthly.by === 'day'
        ? `BYMONTHDAY=${rule.monthly.day}`
        : `BYDAY=${rule.monthly.position}${rule.monthly.weekday}`,
    );
  if (rule.end.kind === 'count') parts.push(`COUNT=${rule.end.count}`);
  if (rule.end.kind === 'until') parts.push(`UNTIL=${compact(rule.end.date).slice(0, 8)}T235959`);
  return parts.join(';');
}

const ORDINALS: Record<string, string> = {
  '1': 'first',
  '2': 'second',
  '3': 'third',
  '4': 'fourth',
  '5': 'fifth',
  '-1': 'last',
};

function every(n: number, unit: string): string {
  return n === 1 ? `every ${unit}` : n === 2 ? `every second ${unit}` : `every ${n} ${unit}s`;
}

const isWeekdays = (days: readonly Weekday[]): boolean =>
  days.length === 5 && !days.includes('SA') && !days.includes('SU');

/** A rule as it is read aloud: "every Monday", "on the last Friday of every month". `start` says the day it begins on. */
export function ruleWords(rule: Rule, start: string, at = ''): string {
  const begins = new Date(`${start.slice(0, 10)}T00:00:00Z`);
  const day = WEEKDAYS[(begins.getUTCDay() + 6) % 7] ?? 'MO';
  const days = WEEKDAYS.filter((each) => (rule.weekdays.length > 0 ? rule.weekdays : [day]).includes(each));
  const named = list(days.map(weekdayWords), 'and');
  let words: string;
  switch (rule.freq) {
    case 'daily':
      words = every(rule.every, 'day');
      break;
    case 'weekly':
      words =
        rule.every === 1
          ? isWeekdays(days)
            ? 'every weekday'
            : `every ${named}`
          : `${every(rule.every, 'week')} on ${isWeekdays(days) ? 'weekdays' : named}`;
      break;
    case 'monthly': {
      const by = rule.monthly ?? { by: 'day' as const, day: begins.getUTCDate() };
      words =
        by.by === 'day'
          ? `on ${by.day === -1 ? 'the last day' : `day ${by.day}`} of ${every(rule.every, 'month')}`
          : `on the ${ORDINALS[String(by.position)] ?? ''} ${weekdayWords(by.weekday)} of ${every(rule.every, 'month')}`;
      break;
    }
    case 'yearly':
      words = `on ${new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', timeZone: 'UTC' }).format(begins)} ${every(rule.every, 'year')}`;
  }
  if (at !== '') words += ` at ${at}`;
  const { end } = rule;
  const date = (iso: string): string =>
    new Intl.DateTimeFormat('en-GB', {
      day: 'numeric',
      month: 'long',
      year: 'numeric',
      timeZone: 'UTC',
    }).format(Date.parse(`${iso.slice(0, 10)}T00:00:00Z`));
  if (end.kind === 'until') words += ` until ${date(end.date)}`;
  if (end.kind === 'count')
    words += `, ${end.count === 1 ? 'once' : `${end.count.toLocaleString('en-GB')} times`}`;
  if (rule.except.length > 0)
    words +=
      rule.except.length > 3
        ? `, leaving out ${rule.except.length} dates`
        : `, leaving out ${list(rule.except.map(date), 'and')}`;
  if (rule.added.length > 0)
    words += `, and ${rule.added.length === 1 ? date(rule.added[0] ?? '') : `${rule.added.length} more dates`} on top`;
  return words;
}
