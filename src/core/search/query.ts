import { distance } from 'fastest-levenshtein';
import { stemmer } from 'stemmer';

export const FOUND_KINDS = ['announcement', 'post', 'reply', 'answer', 'link', 'check-in'] as const;
export type FoundKind = (typeof FOUND_KINDS)[number];

/** Something found. Marks say where the words stand, as alternating plain and marked pieces, plain first. */
export interface Found {
  kind: FoundKind;
  path: string;
  title: string[];
  extract: string[];
  author: string;
  where: string;
  atMs: number;
  asks: boolean;
  category: string;
}

export interface FoundPage {
  found: Found[];
  /** Words like those looked for by which it was found instead, where nothing held these; empty where it was found as asked. */
  instead: string[];
  /** What `after` is for the next page; null at the end. */
  next: number | null;
}

/** The shortest word that is looked for: a shorter one is in everything. */
export const SHORTEST = 2;
const LONGEST = 40;
const MOST_WORDS = 6;
/** Most different words of one text that are kept in the index. */
const MOST_KEPT = 400;

/** Accents and points that one may write or leave out. The marks of kana, Thai and others make another letter, and stay. */
const ACCENTS = /[\u0300-\u036f\u0591-\u05bd\u05bf-\u05c7\u064b-\u065f\u0670]/g;

function folded(text: string): string {
  return text.normalize('NFKD').replace(ACCENTS, '').normalize('NFC').toLowerCase();
}

/** Cuts a text into words also where no spaces stand between them (Unicode Standard Annex 29, with dictionaries). */
const segmenter = new Intl.Segmenter(undefined, { granularity: 'word' });
/** Of scripts that write a word with one sign, one is enough to be looked for. */
const ONE_SIGN = /^[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]$/u;

/** The pieces of a text in their order: words, and what stands between them. Together they are the text. */
function pieces(text: string): string[] {
  return Array.from(segmenter.segment(text), ({ segment }) => segment).flatMap((segment) =>
    segment.split(/([\p{L}\p{N}\p{M}]+)/u).filter((piece) => piece !== ''),
  );
}

/**
 * The words of a text as the index knows them: letters and digits, in lower case, without accents, in their order; of
 * languages that put no spaces between words too.
 */
export function wordsIn(text: string): string[] {
  return pieces(text)
    .map(folded)
    .filter((piece) => /[\p{L}\p{N}]/u.test(piece) && (piece.length >= SHORTEST || ONE_SIGN.test(piece)))
    .map((word) => word.slice(0, LONGEST));
}

/** The shortest word with a stem: of a shorter one too little is left to tell it from others. */
const SHORTEST_STEMMED = 3;

/**
 * What the forms of an English word have in common, by the rules of Porter (1980): "meet" of "meeting" and "meetings",
 * "polici" of "policy" and "policies". Null of what is short, or holds other letters than English has; of "news" too, which
 * is no more of what is new.
 *
 * @param word as `wordsIn` gives it
 */
export const stemOf = (word: string): string | null =>
  word.length >= SHORTEST_STEMMED && /^[a-z]+$/.test(word) && word !== 'news' ? stemmer(word) : null;

/** Whether a word is one of those looked for: it begins with one, or is another form of it. */
function isLookedFor(looked: readonly string[]): (word: string) => boolean {
  const stems = new Set(looked.map(stemOf).filter((stem) => stem !== null));
  return (word) => {
    if (word === '') return false;
    if (looked.some((each) => word.startsWith(each))) return true;
    const stem = stems.size === 0 ? null : stemOf(word);
    return stem !== null && stems.has(stem);
  };
}

/** The words to look for, each once; every one of them must be there, another form of it, or a word that begins with it. */
export const wanted = (q: string): string[] => [...new Set(wordsIn(q))].slice(0, MOST_WORDS);

/** Words that say nothing about what is asked. */
const EMPTY_WORDS = new Set(
  'the and for are was were has have had who whom what when where why how can could may might must shall should will would does did do is it in on of to at by my me we us be am an or if as so up no not with from about into this that these those there here you your yours our ours their they them his her its get got any some all one'.split(
    ' ',
  ),
);

/** The words of a question in somebody's own words by which it is looked for; any of them will do, the more the better. */
export const wantedAny = (q: string): string[] =>
  [...new Set(wordsIn(q).filter((word) => !EMPTY_WORDS.has(word)))].slice(0, MOST_WORDS + 2);

/** How many letters may be wrong, missing or too many in a word of a length. */
const wrongIn = (length: number): number => (length < 4 ? 0 : length < 8 ? 1 : 2);

/**
 * Of some words those that somebody may have meant who wrote another: with a letter or two wrong, missing, too many, or two
 * changed about; the nearest first.
 */
export function meant(word: string, among: readonly string[], most: number): string[] {
  const wrong = wrongIn(word.length);
  if (wrong === 0) return [];
  return among
    .filter((each) => each !== word && Math.abs(each.length - word.length) <= wrong)
    .map((each) => ({ each, wrong: areSwapped(word, each) ? 1 : distance(word, each) }))
    .filter((one) => one.wrong <= wrong)
    .sort((a, b) => a.wrong - b.wrong || a.each.localeCompare(b.each))
    .slice(0, most)
    .map(({ each }) => each);
}

/** Whether two words differ in two neighbouring letters that changed places. */
function areSwapped(a: string, b: string): boolean {
  if (a.length !== b.length) return false;
  let at = 0;
  while (at < a.length && a[at] === b[at]) at++;
  return at < a.length && a[at] === b[at + 1] && a[at + 1] === b[at] && a.slice(at + 2) === b.slice(at + 2);
}

const IN_TITLE = 8;
const MOST_TIMES = 4;

/**
 * How much each word says about a text: most where it stands in the title, more where it comes again. For the index.
 */
export function weights(title: string, body: string): Map<string, number> {
  const found = new Map<string, number>();
  const times = new Map<string, number>();
  for (const word of new Set(wordsIn(title))) found.set(word, IN_TITLE);
  for (const word of wordsIn(body)) {
    const n = (times.get(word) ?? 0) + 1;
    times.set(word, n);
    if (n <= MOST_TIMES && (found.has(word) || found.size < MOST_KEPT))
      found.set(word, (found.get(word) ?? 0) + 1);
  }
  return found;
}

/**
 * A text in pieces, alternating plain and marked, plain first: where a word of the text is one of those looked for.
 *
 * @param looked words as `wordsIn` gives them
 */
export function marked(text: string, looked: readonly string[]): string[] {
  if (looked.length === 0) return [text];
  const found: string[] = [];
  const isOne = isLookedFor(looked);
  let plain = '';
  for (const part of pieces(text)) {
    if (isOne(folded(part))) {
      found.push(plain, part);
      plain = '';
    } else plain += part;
  }
  found.push(plain);
  return found;
}

/** The part of a text around the first word looked for, of about so many characters, cut at words. */
export function extractAround(text: string, looked: readonly string[], length = 180): string {
  const flat = text.replace(/\s+/g, ' ').trim();
  if (flat.length <= length) return flat;
  const isOne = isLookedFor(looked);
  let at = 0;
  let passed = 0;
  for (const piece of pieces(flat)) {
    if (isOne(folded(piece))) {
      at = passed;
      break;
    }
    passed += piece.length;
  }
  const from = Math.max(0, Math.min(at - Math.floor(length / 3), flat.length - length));
  const begin = from === 0 ? 0 : flat.indexOf(' ', from) + 1;
  const end = Math.min(flat.length, begin + length);
  const cut = end === flat.length ? end : Math.max(flat.lastIndexOf(' ', end), begin + 1);
  return `${begin === 0 ? '' : '… '}${flat.slice(begin, cut)}${end === flat.length ? '' : ' …'}`;
}
