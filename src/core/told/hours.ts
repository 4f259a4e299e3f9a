import { count, list } from '../words.ts';

/** So many of what went out by one station's clock in one hour, and how many of them were opened soon. */
export interface HourRow {
  /** The zone whose clock the reader goes by. */
  zone: string;
  station: string | null;
  /** The hour it came in, as milliseconds since 1970. */
  hourMs: number;
  occurrenceId: number;
  /** People it came to then, and those who had opened or answered it within an hour. */
  n: number;
  soon: number;
}

/** One hour of the day as the readers of a station had it. */
export interface HourCell {
  hour: number;
  /** People at the least: as many as one announcement reached in this hour, so nobody counts twice. */
  people: number;
  n: number;
  soon: number;
}

export interface HourMap {
  /** All stations together first, then each by name; hours with too few people are left out. */
  lines: { name: string; cells: HourCell[] }[];
  /** Of all readers and hours: the share that opened within the hour, 0 to 1. */
  usual: number;
  /** The hour at which clearly more opened soon, or null where none stands out. */
  best: { hour: number; share: number; people: number } | null;
  /** How many announcements it rests on. */
  announcements: number;
}

/** An hour as it is counted, with how many each announcement reached in it. */
type Counted = HourCell & { byOccurrence: Map<number, number> };

/** Nothing is told of fewer people than this. */
export const LEAST_PEOPLE = 20;
/** An hour is worth proposing from so much more than usual on. */
const CLEARLY = 1.2;

const hourIn = (zone: string, ms: number): number =>
  Number(new Intl.DateTimeFormat('en-GB', { hour: '2-digit', hourCycle: 'h23', timeZone: zone }).format(ms));

/**
 * At which hour of their own day readers open soon what comes to them, by station. What is told of an hour rests on at least
 * twenty people.
 */
export function hourMap(rows: readonly HourRow[]): HourMap {
  // In an organisation without stations nothing is said by them.
  const placed = rows.some((row) => row.station !== null);
  const ALL = placed ? 'All stations' : 'Everybody';
  const cells = new Map<string, Map<number, Counted>>();
  for (const row of rows) {
    const hour = hourIn(row.zone, row.hourMs);
    for (const name of placed ? [ALL, row.station ?? 'No station'] : [ALL]) {
      const line = cells.get(name) ?? new Map<number, Counted>();
      const cell: Counted = line.get(hour) ?? {
        hour,
        people: 0,
        n: 0,
        soon: 0,
        byOccurrence: new Map<number, number>(),
      };
      const reached = (cell.byOccurrence.get(row.occurrenceId) ?? 0) + row.n;
      cell.byOccurrence.set(row.occurrenceId, reached);
      line.set(hour, {
        ...cell,
        people: Math.max(cell.people, reached),
        n: cell.n + row.n,
        soon: cell.soon + row.soon,
      });
      cells.set(name, line);
    }
  }
  const lines = [...cells]
    .map(([name, line]) => ({
      name,
      cells: [...line.values()]
        .filter((cell) => cell.people >= LEAST_PEOPLE)
        .map(({ hour, people, n, soon }) => ({ hour, people, n, soon }))
        .sort((a, b) => a.hour - b.hour),
    }))
    .filter((line) => line.cells.length > 0)
    .sort((a, b) => Number(b.name === ALL) - Number(a.name === ALL) || a.name.localeCompare(b.name));
  const all = lines.find((line) => line.name === ALL)?.cells ?? [];
  const sum = (of: 'n' | 'soon'): number => all.reduce((total, cell) => total + cell[of], 0);
  const usual = sum('n') === 0 ? 0 : sum('soon') / sum('n');
  const [first] = [...all].sort((a, b) => b.soon / b.n - a.soon / a.n || a.hour - b.hour);
  const best =
    all.length > 1 && first && usual > 0 && first.soon / first.n >= usual * CLEARLY
      ? { hour: first.hour, share: first.soon / first.n, people: first.people }
      : null;
  return { lines, usual, best, announcements: new Set(rows.map((row) => row.occurrenceId)).size };
}

const more = (times: number): string =>
  times >= 2
    ? `${times >= 3 ? `${Math.floor(times)} times` : 'twice'} as many as usual`
    : `${times >= 1.45 ? 'half more' : times >= 1.3 ? 'a third more' : 'a fifth more'} than usual`;

/** What stands out, as a sentence; nothing where no hour does. */
export function bestHourWords(map: HourMap): string | null {
  if (!map.best) return null;
  const { hour, share } = map.best;
  const at = `${String(hour).padStart(2, '0')}:00`;
  return `Of what came between ${at} and ${String((hour + 1) % 24).padStart(2, '0')}:00 their time, ${more(share / map.usual)} had been opened within the hour (${Math.round(share * 100)} % where ${Math.round(map.usual * 100)} % is usual).`;
}

/** What a map rests on. */
export const restsOn = (map: HourMap): string =>
  list(
    [
      count(map.announcements, 'announcement', 'announcements'),
      `hours that at least ${LEAST_PEOPLE} people had`,
    ],
    'and',
  );
