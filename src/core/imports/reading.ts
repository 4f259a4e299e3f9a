import chardet from 'chardet';
import Papa from 'papaparse';
import { readCards } from './cards.ts';
import { guessColumns, namesColumns, type Column } from './columns.ts';

/** A list as it was read: its headings, which may be empty, and its rows, with the line of the file each stands in. */
export interface Table {
  kind: 'CSV' | 'vCard';
  /** The name of the encoding (WHATWG Encoding Standard). */
  encoding: string;
  /** What stands between cells; empty in a vCard. */
  separator: string;
  headings: string[];
  /** Whether the first row names the columns. */
  named: boolean;
  rows: { line: number; cells: string[] }[];
  guess: Column[];
}

export class UnreadableList extends Error {}

/** The most rows of one import. */
export const MOST_ROWS = 300_000;
const MOST_COLUMNS = 200;

const MARKS: [string, number[]][] = [
  ['utf-8', [0xef, 0xbb, 0xbf]],
  ['utf-16le', [0xff, 0xfe]],
  ['utf-16be', [0xfe, 0xff]],
];

const decodeAs = (bytes: Uint8Array, encoding: string, fatal: boolean): string | null => {
  try {
    return new TextDecoder(encoding, { fatal }).decode(bytes);
  } catch {
    return null;
  }
};

/**
 * The text of a file in whatever encoding: by its byte order mark, as UTF-8 where it is that throughout, else as its
 * bytes most likely mean.
 */
export function decode(bytes: Uint8Array): { text: string; encoding: string } {
  const marked = MARKS.find(([, mark]) => mark.every((byte, at) => bytes[at] === byte));
  if (marked) return { text: decodeAs(bytes, marked[0], false) ?? '', encoding: marked[0] };
  const utf8 = decodeAs(bytes, 'utf-8', true);
  if (utf8 !== null && !utf8.includes('\u0000')) return { text: utf8, encoding: 'utf-8' };
  const guessed = chardet.detect(bytes.subarray(0, 200_000))?.toLowerCase() ?? 'windows-1252';
  const text = decodeAs(bytes, guessed, false);
  if (text !== null) return { text, encoding: guessed };
  return { text: decodeAs(bytes, 'windows-1252', false) ?? '', encoding: 'windows-1252' };
}

const WORDS: Record<string, string> = { ',': 'commas', ';': 'semicolons', '\t': 'tabs', '|': 'bars' };
/** A separator in words. */
export const separatorWords = (separator: string): string => WORDS[separator] ?? `“${separator}”`;

/**
 * Reads a list of people: CSV (RFC 4180, with any separator) or vCard (RFC 6350).
 *
 * @param named whether the first row names the columns; told from what is in it where this is left out
 * @throws UnreadableList with a sentence that says what is wrong and what to do
 */
export function readList(bytes: Uint8Array, named?: boolean): Table {
  const { text, encoding } = decode(bytes);
  if (text.trim() === '') throw new UnreadableList('The file is empty. Choose the one with your list.');
  if (text.startsWith('PK\u0003\u0004'))
    throw new UnreadableList(
      'This is a workbook or an archive, not a list as text. Save the sheet as CSV first.',
    );
  if (/^\s*BEGIN:VCARD/i.test(text)) {
    const { headings, rows } = readCards(text);
    return made('vCard', encoding, '', headings, true, rows);
  }
  // Empty lines count as rows, so that each is told by its line, but not when it is told what parts the cells.
  const { meta } = Papa.parse<string[]>(text, { preview: 20, skipEmptyLines: 'greedy' });
  const { data, errors } = Papa.parse<string[]>(text, { skipEmptyLines: false, delimiter: meta.delimiter });
  const broken = errors.find((error) => error.type === 'Quotes');
  if (broken)
    throw new UnreadableList(
      `A quotation mark in row ${(broken.row ?? 0) + 1} is opened and not closed as it should be. Mend that row, then choose the file again.`,
    );
  const rows = data
    .map((cells, at) => ({ line: at + 1, cells }))
    .filter(({ cells }) => cells.some((cell) => cell.trim() !== ''));
  const [first] = rows;
  if (!first) throw new UnreadableList('There is nothing in the file. Choose the one with your list.');
  const headed = named ?? namesColumns(first.cells);
  return made(
    'CSV',
    encoding,
    meta.delimiter,
    headed ? first.cells : [],
    headed,
    headed ? rows.slice(1) : rows,
  );
}

function made(
  kind: Table['kind'],
  encoding: string,
  separator: string,
  headings: string[],
  named: boolean,
  rows: Table['rows'],
): Table {
  if (rows.length === 0)
    throw new UnreadableList('The file has headings and no rows. Choose the one with your list.');
  if (rows.length > MOST_ROWS)
    throw new UnreadableList(
      `The file has ${rows.length.toLocaleString('en-GB')} rows; ${MOST_ROWS.toLocaleString('en-GB')} can be brought in at once. Split it.`,
    );
  const width = rows.reduce((most, row) => Math.max(most, row.cells.length), headings.length);
  if (width > MOST_COLUMNS)
    throw new UnreadableList(
      `The file has ${width} columns; at most ${MOST_COLUMNS} are read. Take out what is not needed.`,
    );
  const all = Array.from({ length: width }, (_, at) => (headings[at] ?? '').trim());
  const guess = guessColumns(
    all,
    rows.slice(0, 50).map((row) => row.cells),
  );
  return { kind, encoding, separator, headings: all, named, rows, guess };
}
