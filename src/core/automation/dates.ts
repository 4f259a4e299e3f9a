import { dayAfter, resolveMoment, wallAt } from '../timing/wallTime.ts';
import { count } from '../words.ts';
import type { When } from './automation.ts';
import { SPAN_MS, type Condition } from './condition.ts';

export type OnDate = Extract<When, { kind: 'date' }>;
export type OnPersonDate = Extract<When, { kind: 'person date' }>;
export type OnSession = Extract<When, { kind: 'session' }>;

/**
 * When an automation is due that goes by a date of a record: of a day, at its hour so many days before or after; of a
 * moment, so long before or after it.
 *
 * @param cell the date as a cell keeps it, `2026-12-31` or `2026-12-31T09:00Z`
 * @returns milliseconds since 1970; null where the cell holds no date
 */
export function dateDue(when: OnDate, cell: string): number | null {
  if (/^\d{4}-\d{2}-\d{2}$/.test(cell))
    return resolveMoment({
      wall: `${dayAfter(cell, when.unit === 'days' ? when.span : 0)}T${when.time}`,
      zone: when.zone,
    }).epochMs;
  const ms = Date.parse(cell);
  return Number.isNaN(ms) ? null : ms + when.span * SPAN_MS[when.unit];
}

/** The days on which dates stand that can be due in a period: a day more at either end, for the zones. */
export function datesBetween(span: number, fromMs: number, toMs: number): { first: string; last: string } {
  const day = (ms: number, more: number): string =>
    dayAfter(new Date(ms).toISOString().slice(0, 10), more - span);
  return { first: day(fromMs, -1), last: day(toMs, 1) };
}

/**
 * When an automation is due that goes by a date of a session: so long before or after it begins or ends. Days are those of the
 * session's zone, so that a day before ten o'clock is ten o'clock also over a clock change.
 *
 * @returns milliseconds since 1970
 */
export function sessionDue(
  { span, unit, edge }: OnSession,
  { startMs, minutes, zone }: { startMs: number; minutes: number; zone: string },
): number {
  const edgeMs = edge === 'begins' ? startMs : startMs + minutes * 60_000;
  if (unit !== 'days') return edgeMs + span * SPAN_MS[unit];
  const wall = wallAt(edgeMs, zone);
  return resolveMoment({ wall: `${dayAfter(wall.slice(0, 10), span)}${wall.slice(10)}`, zone }).epochMs;
}

/** The condition that records meet whose date can be due in a period. */
export function dueBetween(when: OnDate, kind: 'date' | 'moment', fromMs: number, toMs: number): Condition {
  const field = `record.${when.column}`;
  const between = (after: string, before: string): Condition => ({
    kind: 'all',
    of: [
      { kind: 'test', field, test: 'is after', against: { kind: 'value', value: after } },
      { kind: 'test', field, test: 'is before', against: { kind: 'value', value: before } },
    ],
  });
  if (kind === 'date') {
    const { first, last } = datesBetween(when.unit === 'days' ? when.span : 0, fromMs, toMs);
    return between(dayAfter(first, -1), dayAfter(last));
  }
  const at = (ms: number): string =>
    `${new Date(ms - when.span * SPAN_MS[when.unit]).toISOString().slice(0, 16)}Z`;
  return between(at(fromMs - 60_000), at(toMs + 60_000));
}

/**
 * When an automation is due that goes by a date that is known of somebody, such as the day they joined: so many days after it, at an hour of their own clock; each
 * year anew where it is yearly. What falls on 29 February is on 28 February in other years.
 *
 * @returns the instants in a period, in milliseconds since 1970
 */
export function personDatesDue(
  when: OnPersonDate,
  date: string,
  zone: string,
  fromMs: number,
  toMs: number,
): number[] {
  const first = dayAfter(date, when.span);
  const days: string[] = [];
  if (when.yearly)
    for (
      let year = new Date(fromMs).getUTCFullYear() - 1;
      year <= new Date(toMs).getUTCFullYear() + 1;
      year++
    ) {
      const same = `${String(year).padStart(4, '0')}${date.slice(4)}`;
      const leap = Number.isNaN(Date.parse(same)) || !new Date(same).toISOString().startsWith(same);
      const day = dayAfter(leap ? `${same.slice(0, 8)}28` : same, when.span);
      if (year > Number(date.slice(0, 4))) days.push(day);
    }
  else days.push(first);
  return days
    .map((day) => resolveMoment({ wall: `${day}T${when.time}`, zone }).epochMs)
    .filter((ms) => ms >= fromMs && ms < toMs);
}

/** "3 days before", "on the day of", "2 hours after". */
export function spanWords(span: number, unit: keyof typeof SPAN_MS): string {
  if (span === 0) return unit === 'days' ? 'on the day of' : 'at';
  const long = count(Math.abs(span), unit.slice(0, -1), unit);
  return `${long} ${span < 0 ? 'before' : 'after'}`;
}
