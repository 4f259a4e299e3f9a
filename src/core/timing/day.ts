import { Temporal } from 'temporal-polyfill';

export interface Day {
  /** YYYY-MM-DD in the zone. */
  date: string;
  /** The instants between which the day lies, in milliseconds since 1970; 23, 24 or 25 hours apart. */
  startMs: number;
  endMs: number;
  /** The hours that the day's clock shows, each with its instant; a skipped hour is absent, a repeated one twice. */
  hours: { label: string; epochMs: number }[];
}

/** The day in a zone that holds an instant, moved by `offset` days. */
export function dayAround(epochMs: number, zone: string, offset = 0): Day {
  const start = Temporal.Instant.fromEpochMilliseconds(epochMs)
    .toZonedDateTimeISO(zone)
    .add({ days: offset })
    .startOfDay();
  const end = start.add({ days: 1 }).startOfDay();
  const hours: Day['hours'] = [];
  for (let hour = start; Temporal.ZonedDateTime.compare(hour, end) < 0; hour = hour.add({ hours: 1 }))
    hours.push({ label: String(hour.hour).padStart(2, '0'), epochMs: hour.epochMilliseconds });
  return {
    date: start.toPlainDate().toString(),
    startMs: start.epochMilliseconds,
    endMs: end.epochMilliseconds,
    hours,
  };
}

/** The last instant of a date (YYYY-MM-DD) in a zone, in milliseconds since 1970. */
export const endOfDate = (date: string, zone: string): number =>
  Temporal.PlainDate.from(date).add({ days: 1 }).toZonedDateTime(zone).epochMilliseconds - 1;
