const formats = new Map<string, Intl.DateTimeFormat>();

function format(zone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = `${zone} ${JSON.stringify(options)}`;
  let found = formats.get(key);
  if (!found) {
    found = new Intl.DateTimeFormat('en-GB', { ...options, timeZone: zone });
    formats.set(key, found);
  }
  return found;
}

/** 09:05 in the zone, or 09:05:07 with seconds. */
export function timeWords(epochMs: number, zone: string, seconds = false): string {
  return format(zone, {
    hour: '2-digit',
    minute: '2-digit',
    ...(seconds ? { second: '2-digit' } : {}),
    hourCycle: 'h23',
  }).format(epochMs);
}

/** Tuesday 1 December; with the year where it is not that of `nowMs`. */
export function dateWords(epochMs: number, zone: string, nowMs?: number): string {
  const year = format(zone, { year: 'numeric' });
  const other = nowMs !== undefined && year.format(epochMs) !== year.format(nowMs);
  const parts = format(zone, {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    year: 'numeric',
  }).formatToParts(epochMs);
  const part = (type: string): string => parts.find((each) => each.type === type)?.value ?? '';
  return `${part('weekday')} ${part('day')} ${part('month')}${other ? ` ${part('year')}` : ''}`;
}

/** 1 Dec, for a margin. */
export function shortDate(epochMs: number, zone: string): string {
  return format(zone, { day: 'numeric', month: 'short' }).format(epochMs);
}

/** A calendar date (YYYY-MM-DD) with its year: "1 Dec 2026". */
export function dayWords(date: string): string {
  return format('UTC', { day: 'numeric', month: 'short', year: 'numeric' }).format(
    Date.parse(`${date}T12:00:00Z`),
  );
}

/** "09:00 on Tuesday 1 December". */
export function momentWords(epochMs: number, zone: string, nowMs?: number): string {
  return `${timeWords(epochMs, zone)} on ${dateWords(epochMs, zone, nowMs)}`;
}

/** The date of a moment in the zone, as YYYY-MM-DD (ISO 8601). */
export const isoDate = (epochMs: number, zone: string): string =>
  new Date(dayNumber(epochMs, zone) * 86_400_000).toISOString().slice(0, 10);

/** How many days before and after today a weekday says which day is meant. */
const NEAR_DAYS = 6;

/** The day a moment falls on in the zone, counted from 1970. */
function dayNumber(epochMs: number, zone: string): number {
  const parts = format(zone, { year: 'numeric', month: 'numeric', day: 'numeric' }).formatToParts(epochMs);
  const part = (type: string): number => Number(parts.find((each) => each.type === type)?.value);
  return Date.UTC(part('year'), part('month') - 1, part('day')) / 86_400_000;
}

/**
 * A moment as short as it can be told from `nowMs`: "today 12:59", "yesterday 12:59", "tomorrow 12:59", "Wed 12:59" within
 * six days, else "25 Nov 12:59", with the year where it is another. In the zone.
 */
export function nearWords(epochMs: number, zone: string, nowMs: number): string {
  const days = dayNumber(epochMs, zone) - dayNumber(nowMs, zone);
  const time = timeWords(epochMs, zone);
  if (days >= -1 && days <= 1) return `${['yesterday', 'today', 'tomorrow'][days + 1]} ${time}`;
  if (Math.abs(days) <= NEAR_DAYS) return `${format(zone, { weekday: 'short' }).format(epochMs)} ${time}`;
  const year = format(zone, { year: 'numeric' });
  const other = year.format(epochMs) !== year.format(nowMs);
  return `${shortDate(epochMs, zone)}${other ? ` ${year.format(epochMs)}` : ''} ${time}`;
}

/** A zone as people say it: "Europe/London" is "London". */
export function zoneWords(zone: string): string {
  return (zone.split('/').at(-1) ?? zone).replaceAll('_', ' ');
}

/** How long something lasts, to the minute: 45 min, 2 h, 1 h 30 min, 2 days. */
export function lastsWords(minutes: number): string {
  if (minutes % 1440 === 0) return minutes === 1440 ? '1 day' : `${minutes / 1440} days`;
  const hours = Math.floor(minutes / 60);
  const rest = minutes % 60;
  return [hours > 0 ? `${hours} h` : '', rest > 0 ? `${rest} min` : ''].filter(Boolean).join(' ');
}

/** A span in words of one unit: 0.4 s, 12 s, 5 min, 3 h, 2 days. Input in milliseconds. */
export function spanWords(ms: number): string {
  const s = Math.abs(ms) / 1000;
  if (s < 10) return `${s.toFixed(1)} s`;
  if (s < 90) return `${Math.round(s)} s`;
  if (s < 5400) return `${Math.round(s / 60)} min`;
  if (s < 129_600) return `${Math.round(s / 3600)} h`;
  return `${Math.round(s / 86_400)} days`;
}

/** "November 2026" for the month `2026-11`. */
export function monthWords(month: string): string {
  return format('UTC', { month: 'long', year: 'numeric' }).format(Date.parse(`${month}-01T00:00:00Z`));
}
