import { neverWords, occurrenceWalls } from '../timing/recurrence.ts';
import { ruleWords, type Rule } from '../timing/rule.ts';
import { resolveMoment, wallAt, type Moment } from '../timing/wallTime.ts';
import { dateWords, zoneWords } from '../timing/words.ts';

/** How far ahead the dates of a session are laid out, in days. */
export const AHEAD_DAYS = 366;
/** Most dates that are laid out of one session. */
export const MOST_DATES = 400;
const DAY_MS = 86_400_000;

/** A date of a session: the wall-clock time it is known by, and when that is, in milliseconds since 1970. */
export interface LaidDate {
  meant: string;
  startMs: number;
}

interface When extends Moment {
  rule: Rule | null;
}

/**
 * The dates of a session that begin after an instant, within a year of it, in order. What happens once has one, however far
 * ahead; an hour the clock skips counts as an hour later.
 *
 * @param fromMs milliseconds since 1970
 */
export function datesAfter({ wall, zone, rule }: When, fromMs: number): LaidDate[] {
  const walls = rule
    ? occurrenceWalls(wall, rule, {
        from: wallAt(fromMs - DAY_MS, zone),
        to: wallAt(fromMs + AHEAD_DAYS * DAY_MS, zone),
        most: MOST_DATES,
      })
    : [wall];
  return walls
    .map((meant) => ({ meant, startMs: resolveMoment({ wall: meant, zone }).epochMs }))
    .filter((date) => date.startMs > fromMs);
}

/** Why a session never takes place from an instant on, in words; null where it does. */
export function neverAfter(when: When, fromMs: number): string | null {
  if (datesAfter(when, fromMs).length > 0) return null;
  if (!when.rule) return 'That time has passed. Choose one that is still to come.';
  const never = neverWords(when.wall, when.rule);
  return never === null
    ? 'All its dates have passed, or the next is more than a year away. Choose others.'
    : never.replaceAll('goes out', 'takes place');
}

/** When a session takes place, in words of its own zone; with the year where it is not that of `nowMs`. */
export function sessionWhenWords({ wall, zone, rule }: When, nowMs: number): string {
  const at = wall.slice(11);
  const words = rule
    ? ruleWords(rule, wall, at)
    : `on ${dateWords(Date.parse(`${wall}:00Z`), 'UTC', nowMs)} at ${at}`;
  return `${words} in ${zoneWords(zone)}`;
}

/** A date that is laid out already. */
export interface KnownDate extends LaidDate {
  id: number;
  /** Whether it was moved or changed by itself. */
  own: boolean;
  calledOff: boolean;
  /** Whether anybody has said anything of it. */
  answered: boolean;
}

/** What becomes of the dates ahead when a session's times are changed. */
export interface Relaid {
  /** To be made. */
  made: LaidDate[];
  /** To take place at another time; what was said of them stays. */
  moved: { date: KnownDate; to: LaidDate }[];
  /** That stay as they are in time. */
  kept: KnownDate[];
  /** That nobody has said anything of, and go without a word. */
  dropped: KnownDate[];
  /** That somebody has said something of, and are called off. */
  calledOff: KnownDate[];
}

/**
 * How the dates ahead follow a change of times. A date is the same as before where it is of the same time, or else of the same
 * day; what happens once moves to wherever it happens now.
 */
export function relay(known: readonly KnownDate[], wanted: readonly LaidDate[]): Relaid {
  const relaid: Relaid = { made: [], moved: [], kept: [], dropped: [], calledOff: [] };
  const left = new Map(known.map((date) => [date.meant, date]));
  const open: LaidDate[] = [];
  const keepOrMove = (date: KnownDate, to: LaidDate): void => {
    left.delete(date.meant);
    // What was changed by itself stays where it was put.
    if (date.own || (date.meant === to.meant && date.startMs === to.startMs)) relaid.kept.push(date);
    else relaid.moved.push({ date, to });
  };
  for (const date of wanted) {
    const same = left.get(date.meant);
    if (same) keepOrMove(same, date);
    else open.push(date);
  }
  for (const date of open) {
    const sameDay = [...left.values()].find((each) => each.meant.slice(0, 10) === date.meant.slice(0, 10));
    const only = known.length === 1 && wanted.length === 1 ? [...left.values()][0] : undefined;
    const before = sameDay ?? only;
    if (before) keepOrMove(before, date);
    else relaid.made.push(date);
  }
  for (const date of left.values()) {
    if (date.calledOff) relaid.kept.push(date);
    else if (date.answered) relaid.calledOff.push(date);
    else relaid.dropped.push(date);
  }
  return relaid;
}
