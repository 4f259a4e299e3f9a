const HOUR = 60;
const DAY = 24 * HOUR;
const STEPS = [
  1,
  2,
  5,
  10,
  15,
  30,
  HOUR,
  2 * HOUR,
  3 * HOUR,
  6 * HOUR,
  12 * HOUR,
  DAY,
  2 * DAY,
  7 * DAY,
  14 * DAY,
  28 * DAY,
];

/**
 * The ages, in minutes, at which an axis that begins at 0 is marked: round ones, each as far from the next.
 *
 * @param toMinutes where the axis ends
 * @param most so many marks at the most, the first included
 */
export function ageMarks(toMinutes: number, most = 8): number[] {
  const step =
    STEPS.find((each) => toMinutes / each < most) ??
    Math.ceil(toMinutes / (most - 1) / (28 * DAY)) * 28 * DAY;
  return Array.from({ length: Math.floor(toMinutes / step) + 1 }, (_, at) => at * step);
}
