import { dateAt, dayAfter, resolveMoment } from './wallTime.ts';

const EVENING = '18:00';

/** When whoever works on weekdays was last at the desk before today: six in the evening of the weekday before, in their zone. */
export function eveningBefore(nowMs: number, zone: string): number {
  let date = dayAfter(dateAt(nowMs, zone), -1);
  while ([0, 6].includes(new Date(`${date}T00:00:00Z`).getUTCDay())) date = dayAfter(date, -1);
  return resolveMoment({ wall: `${date}T${EVENING}`, zone }).epochMs;
}
