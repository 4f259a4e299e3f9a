import { Temporal } from 'temporal-polyfill';

const HOUR_MIN = 60;
const DAY_MIN = 24 * HOUR_MIN;
/** How far marks may lie apart, in minutes of the clock, and in days. */
const STEPS_MIN = [5, 10, 15, 30, 60, 120, 180, 360, 720];
const STEPS_DAYS = [1, 2, 7, 14, 28, 91, 364];

/**
 * Instants at which an axis of time is marked: round times of a zone's clock, each as far from the next by that clock, and midnights
 * where it goes over days. None where the axis is too short for one.
 *
 * @param fromMs, toMs the ends of the axis, in milliseconds since 1970
 * @param most so many marks at the most
 */
export function axisMarks(fromMs: number, toMs: number, zone: string, most = 8): number[] {
  const midnight = Temporal.Instant.fromEpochMilliseconds(fromMs).toZonedDateTimeISO(zone).startOfDay();
  const day = (n: number): Temporal.ZonedDateTime => midnight.add({ days: n }).startOfDay();
  const within = (places: (n: number) => Temporal.ZonedDateTime): number[] => {
    const marks: number[] = [];
    for (let n = 0; marks.length <= most; n++) {
      const atMs = places(n).epochMilliseconds;
      if (atMs > toMs) break;
      // Where a clock is put forward two times of day are one instant.
      if (atMs >= fromMs && atMs !== marks.at(-1)) marks.push(atMs);
    }
    return marks;
  };
  for (const step of STEPS_MIN) {
    if ((toMs - fromMs) / (step * 60_000) > most + 2) continue;
    const marks = within((n) => {
      const minutes = n * step;
      return day(Math.floor(minutes / DAY_MIN)).with({
        hour: Math.floor((minutes % DAY_MIN) / HOUR_MIN),
        minute: minutes % HOUR_MIN,
      });
    });
    if (marks.length <= most) return marks;
  }
  for (const step of STEPS_DAYS) {
    const marks = within((n) => day(n * step));
    if (marks.length <= most) return marks;
  }
  return [];
}
