import { RRuleTemporal } from 'rrule-temporal';
import { Temporal } from 'temporal-polyfill';
import type { Rule } from './rule.ts';
import { resolveMoment, type ResolvedMoment } from './wallTime.ts';

/** Rules are walked at most this far from where they begin, in years: a rule that has not come by then never does. */
const FURTHEST_YEARS = 60;

// Wall-clock times are computed on a clock without changes; the zone's own changes are applied when they are resolved.
const floating = (wall: string): Temporal.ZonedDateTime =>
  Temporal.PlainDateTime.from(wall).toZonedDateTime('UTC');
const wallOf = (zoned: { epochMilliseconds: number }): string =>
  new Date(zoned.epochMilliseconds).toISOString().slice(0, 16);

function compile(start: string, rule: Rule, to: string): RRuleTemporal {
  const { monthly } = rule;
  return new RRuleTemporal({
    temporal: Temporal,
    freq: ({ daily: 'DAILY', weekly: 'WEEKLY', monthly: 'MONTHLY', yearly: 'YEARLY' } as const)[rule.freq],
    interval: rule.every,
    dtstart: floating(start),
    tzid: 'UTC',
    cache: false,
    ...(rule.end.kind === 'count' ? { count: rule.end.count } : {}),
    // A rule that never comes is looked for until here, and not for ever.
    ...(rule.end.kind === 'count' ? {} : { until: floating(lastOf(rule, to)) }),
    ...(rule.freq === 'weekly' && rule.weekdays.length > 0 ? { byDay: rule.weekdays } : {}),
    ...(rule.freq === 'monthly' && monthly?.by === 'day' ? { byMonthDay: [monthly.day] } : {}),
    ...(rule.freq === 'monthly' && monthly?.by === 'position'
      ? { byDay: [`${monthly.position}${monthly.weekday}`] }
      : {}),
  });
}

const leftOut = (rule: Rule): ((wall: string) => boolean) => {
  const except = new Set(rule.except);
  return (wall) => except.has(wall) || except.has(wall.slice(0, 10));
};

const lastOf = ({ end }: Rule, to: string): string =>
  end.kind === 'until' && `${end.date}T23:59` < to ? `${end.date}T23:59` : to;

/** All of a counted rule; nothing where it never comes, which the library finds out by walking until it gives up. */
function counted(compiled: RRuleTemporal): Temporal.ZonedDateTime[] {
  try {
    return compiled.all();
  } catch (error) {
    if (error instanceof Error && error.message.startsWith('Maximum iterations')) return [];
    throw error;
  }
}

/**
 * The wall-clock times at which something recurs (RFC 5545 section 3.8.5), in order, each once: those of the rule and
 * those added, less those left out. `start` is the first day looked at and the hour; it is an occurrence only where
 * the rule falls on it. COUNT counts what the rule gives, before any is left out, as the RFC has it.
 *
 * @param options `from`: the first wall-clock time wanted, itself included; `to`: before which they end; `most`: how
 *   many at most
 */
export function occurrenceWalls(
  start: string,
  rule: Rule,
  options: { from?: string; to?: string; most: number },
): string[] {
  const from = options.from !== undefined && options.from > start ? options.from : start;
  const furthest = `${Number(from.slice(0, 4)) + FURTHEST_YEARS}${from.slice(4, 8)}01T00:00`;
  const to = options.to ?? furthest;
  if (options.most <= 0 || to <= from) return [];
  const isOut = leftOut(rule);
  const added = [...new Set(rule.added)].filter((wall) => wall >= from && wall < to && !isOut(wall)).sort();
  const found: string[] = [];
  const compiled = compile(start, rule, to);
  // A counted rule is walked from its beginning; an endless one is entered where it is wanted.
  if (rule.end.kind === 'count') {
    for (const each of counted(compiled)) {
      const wall = wallOf(each);
      if (wall >= to || found.length >= options.most) break;
      if (wall >= from && !isOut(wall)) found.push(wall);
    }
  } else {
    const limit = floating(to);
    let next = compiled.next(floating(from), true);
    // Many come in one go, which is much cheaper than one at a time.
    const batch = Math.max(options.most + rule.except.length, 1);
    let span = rule.freq === 'daily' ? 1 : rule.freq === 'weekly' ? 7 : rule.freq === 'monthly' ? 31 : 366;
    span = span * rule.every * Math.min(batch, 400) + 1;
    while (next && found.length < options.most && Temporal.ZonedDateTime.compare(next, limit) < 0) {
      const end = next.add({ days: span });
      const starts = compiled.between(next, end, true);
      for (const each of starts) {
        const wall = wallOf(each);
        if (wall >= to || found.length >= options.most) break;
        if (!isOut(wall) && found.at(-1) !== wall) found.push(wall);
      }
      next = compiled.next(end, false);
    }
  }
  return added.length === 0 ? found : [...new Set([...found, ...added])].sort().slice(0, options.most);
}

/** Why a rule would never come, in words for the one who wrote it; null where it comes at least once. */
export function neverWords(start: string, rule: Rule): string | null {
  if (occurrenceWalls(start, rule, { most: 1 }).length > 0) return null;
  if (rule.end.kind === 'until' && rule.end.date < start.slice(0, 10))
    return 'It ends before it begins, so it never goes out. Choose a later last date.';
  if (rule.except.length > 0 && occurrenceWalls(start, { ...rule, except: [] }, { most: 1 }).length > 0)
    return 'Every date of it is left out, so it never goes out. Take a date back in.';
  return 'There is no such date, so it never goes out. Choose another day of the month, or the last one.';
}

/** One occurrence to come: as written, where it falls, and what the clock does to it. */
export interface Coming extends ResolvedMoment {
  /** The wall-clock time the rule gives. */
  meant: string;
  /** How far the zone's clock moved since the occurrence before, in minutes; 0 for not at all. */
  clockMoved: number;
}

const MINUTE_MS = 60_000;

/** Wall-clock times as they fall in a zone, with what its clock does between them. */
export function comingIn(zone: string, walls: readonly string[]): Coming[] {
  let before: number | null = null;
  return walls.map((meant) => {
    const resolved = resolveMoment({ wall: meant, zone });
    const offset =
      Temporal.Instant.fromEpochMilliseconds(resolved.epochMs).toZonedDateTimeISO(zone).offsetNanoseconds /
      1e6;
    const clockMoved = before === null ? 0 : (offset - before) / MINUTE_MS;
    before = offset;
    return { ...resolved, meant, clockMoved };
  });
}
