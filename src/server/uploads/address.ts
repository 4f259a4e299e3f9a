import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';

/**
 * By what an upload may be read: what it stands in, and by its number. `post` is one that is up; `own post` one that is not,
 * for its author and moderators; likewise `reply` and `own reply`; `sent` what an occurrence says now; `version` one kept
 * text, for the desk; `board` the key links of a board; `sender` the picture of a named sender.
 */
export const PLACES = {
  post: 'p',
  'own post': 'q',
  reply: 'r',
  'own reply': 'h',
  sent: 'o',
  version: 'v',
  draft: 'd',
  series: 's',
  board: 'b',
  sender: 'n',
} as const;
export type Place = keyof typeof PLACES;

const DAY_MS = 86_400_000;
/** On a page an address holds to the end of the next day; in a mail as long as the links in it. */
const PAGE_DAYS = 1;
const MAIL_DAYS = 90;

// Without one in the environment, as in tests, what a process signs holds for that process.
const ownSecret = randomBytes(32).toString('base64url');
const mac = (text: string): Buffer =>
  createHmac('sha256', process.env.CLEAR_BELL_SECRET ?? ownSecret)
    .update(`upload ${text}`)
    .digest()
    .subarray(0, 18);

/** The last day, counted from 1970 in UTC, on which an address signed now holds. */
export const lastDayIn = (medium: 'page' | 'mail' = 'page'): number =>
  Math.floor(Date.now() / DAY_MS) + (medium === 'mail' ? MAIL_DAYS : PAGE_DAYS);

const keyOf = (path: string): string | undefined => /^\/files\/([A-Za-z0-9_-]{22})\//.exec(path)?.[1];

/**
 * Signs the addresses of uploads that stand in something, for whoever may read that: they hold for a day or two (in mail for
 * ninety), and only as long as the upload still stands there.
 *
 * @returns a function that gives a path of an upload its signature, and any other address as it is
 */
export function addressIn(
  place: Place,
  id: number,
  medium: 'page' | 'mail' = 'page',
): (path: string) => string {
  const lastDay = lastDayIn(medium);
  const where = `${PLACES[place]}${id.toString(36)}.${lastDay.toString(36)}`;
  return (path) => {
    const key = keyOf(path);
    return key === undefined ? path : `${path}?in=${where}.${mac(`${key} ${where}`).toString('base64url')}`;
  };
}

/** What a signature lets be read, or nothing where it is not whole or too old. */
export function placeSigned(
  key: string,
  signed: string,
): { place: Place; id: number; untilMs: number } | undefined {
  const match = /^(([a-z])([0-9a-z]{1,12})\.([0-9a-z]{1,8}))\.([A-Za-z0-9_-]{24})$/.exec(signed);
  if (!match) return undefined;
  const [, where = '', letter, id = '', day = '', signature = ''] = match;
  const given = Buffer.from(signature, 'base64url');
  const expected = mac(`${key} ${where}`);
  if (given.length !== expected.length || !timingSafeEqual(given, expected)) return undefined;
  const untilMs = (Number.parseInt(day, 36) + 1) * DAY_MS;
  const place = (Object.keys(PLACES) as Place[]).find((each) => PLACES[each] === letter);
  return untilMs < Date.now() || !place ? undefined : { place, id: Number.parseInt(id, 36), untilMs };
}

/** The path of an upload without its signature; any other address as it is. */
export const unsigned = (path: string): string =>
  keyOf(path) === undefined ? path : (path.split('?')[0] ?? path);
