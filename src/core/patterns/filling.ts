import { referencesIn, withReferences, type Reference } from '../organisation/references.ts';
import {
  BLANK_KINDS,
  partKey,
  PATTERN_KINDS,
  type Blank,
  type BlankKind,
  type MadeParts,
  type PatternDocument,
  type PatternPart,
  type PlaceAnswers,
} from './pattern.ts';

/** The fields that hold no words of anybody's: names in them are not those of places. */
const NO_WORDS = new Set([
  'key',
  'captions',
  'formKey',
  'src',
  'mime',
  'kind',
  'type',
  'zone',
  'id',
  'column',
  'field',
  'formula',
  'bundling',
]);
const ADDRESSES = new Set(['url', 'href', 'link']);
const DATE = /^(\d{4}-\d{2}-\d{2})(T.*)?$/;

/** Every string in a value as it is given. */
function withStrings<T>(value: T, as: (text: string, field: string) => string): T {
  const walk = (inner: unknown, field: string): unknown => {
    if (typeof inner === 'string') return as(inner, field);
    if (Array.isArray(inner)) return inner.map((each) => walk(each, field));
    if (typeof inner !== 'object' || inner === null) return inner;
    return Object.fromEntries(Object.entries(inner).map(([name, each]) => [name, walk(each, name)]));
  };
  return walk(value, '') as T;
}

/** A part without its own kind and id: these are no reference, though an audience has such fields. */
const contentsOf = (part: PatternPart): Record<string, unknown> =>
  Object.fromEntries(Object.entries(part).filter(([field]) => field !== 'kind' && field !== 'id'));

/** The references of a part, with those that it alone has. */
function withAllReferences(part: PatternPart, as: (reference: Reference) => number): PatternPart {
  const filled = { ...part, ...withReferences(contentsOf(part), as) };
  return filled.kind === 'pin' ? { ...filled, boardId: as({ kind: 'board', id: filled.boardId }) } : filled;
}

/** What a part names by its id, each once. */
export function namedBy(part: PatternPart): Reference[] {
  const found = referencesIn(contentsOf(part));
  return part.kind === 'pin' ? [{ kind: 'board', id: part.boardId }, ...found] : found;
}

/** The dates and zones in a part. */
function zonesAndDates(part: PatternPart): { kind: BlankKind; was: string }[] {
  const found: { kind: BlankKind; was: string }[] = [];
  withStrings(part, (text, field) => {
    const [, date] = DATE.exec(text) ?? [];
    if (date !== undefined) found.push({ kind: 'date', was: date });
    else if (field === 'zone') found.push({ kind: 'zone', was: text });
    return text;
  });
  return found;
}

/** All that parts name and that may differ from place to place: stations, people, zones, and dates in their order. */
export function blanksIn(parts: readonly PatternPart[]): Blank[] {
  const found = new Map<string, Blank>();
  for (const part of parts) {
    const named = namedBy(part).flatMap(({ kind, id }) =>
      kind === 'station' || kind === 'person' ? [{ kind, was: String(id) }] : [],
    );
    for (const { kind, was } of [...named, ...zonesAndDates(part)]) {
      const key = `${kind}:${was}`;
      const blank = found.get(key) ?? { key, kind, was, in: [] };
      if (!blank.in.includes(partKey(part))) blank.in.push(partKey(part));
      found.set(key, blank);
    }
  }
  return [...found.values()].sort(
    (a, b) =>
      BLANK_KINDS.indexOf(a.kind) - BLANK_KINDS.indexOf(b.kind) ||
      (a.kind === 'date' ? a.was.localeCompare(b.was) : 0),
  );
}

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/** A place's name in a text; not where it is only a piece of a longer word. */
const nameIn = (name: string): RegExp =>
  new RegExp(`(?<![\\p{L}\\p{N}])${escaped(name)}(?![\\p{L}\\p{N}])`, 'gu');

/** How often a place's name stands in the names and texts of parts. */
export function timesNamed(parts: readonly PatternPart[], called: string): number {
  let times = 0;
  const pattern = nameIn(called);
  withStrings(parts, (text, field) => {
    if (!NO_WORDS.has(field) && !ADDRESSES.has(field)) times += text.match(pattern)?.length ?? 0;
    return text;
  });
  return times;
}

/**
 * A part as it is in the place that is made: with its name, what was answered, and the ids of the parts that are made. What is not
 * made yet, and what is no part, keeps its id.
 */
export function filledPart(
  { called }: Pick<PatternDocument, 'called'>,
  part: PatternPart,
  { name, given }: Pick<PlaceAnswers, 'name' | 'given'>,
  made: MadeParts,
): PatternPart {
  const pattern = nameIn(called);
  const linked = withAllReferences(part, ({ kind, id }) => {
    const here = made.ids.get(`${kind}:${id}`);
    if (here !== undefined) return here;
    const answered = kind === 'station' || kind === 'person' ? given[`${kind}:${id}`] : undefined;
    return answered === undefined ? id : Number(answered);
  });
  return withStrings(linked, (text, field) => {
    if (ADDRESSES.has(field)) return addressIn(text, made);
    if (field === 'zone') return given[`zone:${text}`] ?? text;
    const [, date, rest = ''] = DATE.exec(text) ?? [];
    if (date !== undefined) return `${given[`date:${date}`] ?? date}${rest}`;
    return NO_WORDS.has(field) ? text : text.replace(pattern, () => name);
  });
}

/** An address of a page or a form of the place, as it is in the new one; addresses of elsewhere stay as they are. */
function addressIn(url: string, { ids, forms, origin }: MadeParts): string {
  const path = url.startsWith('/') ? url : url.startsWith(`${origin}/`) ? url.slice(origin.length) : null;
  if (path === null) return url;
  const before = url.slice(0, url.length - path.length);
  const form = /^\/forms\/([A-Za-z0-9_-]{22})(?![A-Za-z0-9_-])/.exec(path)?.[1];
  const to = form === undefined ? undefined : forms.get(form);
  if (form !== undefined && to !== undefined) return `${before}${path.replace(form, to)}`;
  return `${before}${path.replace(
    /^\/(board|group|sheet)s\/(\d+)(?!\d)/,
    (whole, kind: string, id: string) => {
      const here = ids.get(`${kind}:${id}`);
      return here === undefined ? whole : `/${kind}s/${here}`;
    },
  )}`;
}

/** Parts in an order in which each comes after those it names. */
export function inMakingOrder(parts: readonly PatternPart[]): PatternPart[] {
  const byKey = new Map(parts.map((part) => [partKey(part), part]));
  const done = new Set<string>();
  const ordered: PatternPart[] = [];
  const add = (part: PatternPart): void => {
    if (done.has(partKey(part))) return;
    done.add(partKey(part));
    for (const { kind, id } of namedBy(part)) {
      const named = byKey.get(`${kind}:${id}`);
      if (named) add(named);
    }
    ordered.push(part);
  };
  for (const kind of PATTERN_KINDS) for (const part of parts) if (part.kind === kind) add(part);
  return ordered;
}

/** Dates that were not answered by hand, moved by as many days as the first one was. */
export function datesMoved(
  dates: readonly string[],
  first: string,
  touched: Readonly<Record<string, string>>,
): Record<string, string> {
  const [from] = dates;
  const day = 86_400_000;
  const at = (date: string): number => Date.parse(`${date}T00:00:00Z`);
  if (from === undefined || Number.isNaN(at(first))) return {};
  const by = at(first) - at(from);
  return Object.fromEntries(
    dates.map((date) => [
      date,
      touched[date] ?? new Date(Math.round((at(date) + by) / day) * day).toISOString().slice(0, 10),
    ]),
  );
}
