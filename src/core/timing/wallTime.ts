import QuickLRU from 'quick-lru';
import { Temporal } from 'temporal-polyfill';

/** Whether this is an IANA zone that the zone data in use knows. */
export function isZone(zone: string): boolean {
  if (!/^[A-Za-z][A-Za-z0-9_+/-]*$/.test(zone)) return false;
  try {
    Temporal.Instant.fromEpochMilliseconds(0).toZonedDateTimeISO(zone);
    return true;
  } catch {
    return false;
  }
}

/** A moment as it was meant: a wall-clock time (`2026-12-01T09:00`) in an IANA zone. */
export interface Moment {
  wall: string;
  zone: string;
}

export interface ResolvedMoment {
  /** Milliseconds since 1970-01-01T00:00Z. */
  epochMs: number;
  /** `skipped`: the clock went forward over it; `repeated`: the clock went back and it comes twice. */
  hour: 'ordinary' | 'skipped' | 'repeated';
  /** The wall-clock time on which it falls, which differs from the one written when that was skipped. */
  wall: string;
}

/** What was resolved lately, which is asked for again at every look at a plan: the same hours of the same days in the same zones. */
const resolvedLately = /* @__PURE__ */ new QuickLRU<string, Readonly<ResolvedMoment>>({ maxSize: 20_000 });

/**
 * The instant of a wall-clock time in a zone, by the rule of RFC 5545 section 3.3.5: a time that the clock skips
 * is read with the offset before the gap (02:30 becomes 03:30), and a time that comes twice is its first coming.
 */
export function resolveMoment(moment: Moment): Readonly<ResolvedMoment> {
  const key = `${moment.wall} ${moment.zone}`;
  const known = resolvedLately.get(key);
  if (known) return known;
  const resolved = resolveUnknown(moment);
  resolvedLately.set(key, resolved);
  return resolved;
}

function resolveUnknown({ wall, zone }: Moment): Readonly<ResolvedMoment> {
  const plain = Temporal.PlainDateTime.from(wall);
  const zoned = plain.toZonedDateTime(zone, { disambiguation: 'compatible' });
  const later = plain.toZonedDateTime(zone, { disambiguation: 'later' });
  const landed = zoned.toPlainDateTime();
  return {
    epochMs: zoned.epochMilliseconds,
    hour: !landed.equals(plain)
      ? 'skipped'
      : later.epochMilliseconds !== zoned.epochMilliseconds
        ? 'repeated'
        : 'ordinary',
    wall: landed.toString({ smallestUnit: 'minute' }),
  };
}

/** What is to be told of an hour that does not exist or comes twice; null for an ordinary one. */
export function clockChangeWords(moment: Moment): string | null {
  const resolved = resolveMoment(moment);
  const time = moment.wall.slice(11);
  if (resolved.hour === 'skipped')
    return `The clock goes forward in ${moment.zone} that day and there is no ${time}: it counts as ${resolved.wall.slice(11)}.`;
  if (resolved.hour === 'repeated')
    return `The clock goes back in ${moment.zone} that day and ${time} comes twice: the first one counts.`;
  return null;
}

/** A period in which the clocks of a zone do not change, and how far they are ahead of UTC in it; all in milliseconds. */
interface Steady {
  fromMs: number;
  untilMs: number;
  aheadMs: number;
}

/** The periods asked for so far, by the zone: a zone has a few in the years one plans in. */
const steadyPeriods = new Map<string, Steady[]>();

/** How far the clocks of a zone are ahead of UTC at an instant, in milliseconds. */
function aheadOfUtc(epochMs: number, zone: string): number {
  const known = steadyPeriods.get(zone);
  const found = known?.find(({ fromMs, untilMs }) => epochMs >= fromMs && epochMs < untilMs);
  if (found) return found.aheadMs;
  const at = Temporal.Instant.fromEpochMilliseconds(epochMs).toZonedDateTimeISO(zone);
  const period: Steady = {
    // A change at this very instant begins the period: it lies before the millisecond after.
    fromMs: at.add({ milliseconds: 1 }).getTimeZoneTransition('previous')?.epochMilliseconds ?? -Infinity,
    untilMs: at.getTimeZoneTransition('next')?.epochMilliseconds ?? Infinity,
    aheadMs: at.offsetNanoseconds / 1e6,
  };
  if (known) known.push(period);
  else steadyPeriods.set(zone, [period]);
  return period.aheadMs;
}

/** The wall-clock time in a zone at an instant, to the minute. */
export function wallAt(epochMs: number, zone: string): string {
  const aheadMs = zone === 'UTC' ? 0 : aheadOfUtc(epochMs, zone);
  return new Date(epochMs + aheadMs).toISOString().slice(0, -8);
}

/** The calendar date in a zone at an instant, YYYY-MM-DD. */
export function dateAt(epochMs: number, zone: string): string {
  return wallAt(epochMs, zone).slice(0, 10);
}

/** The calendar date so many days after one, YYYY-MM-DD; days of the calendar, not of 24 hours. */
export function dayAfter(date: string, days = 1): string {
  return Temporal.PlainDate.from(date).add({ days }).toString();
}
