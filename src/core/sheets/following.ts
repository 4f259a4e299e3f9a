/** How often an outside source of records may be read, in minutes, in words. */
export const READ_EVERY: Record<number, string> = {
  1: 'every minute',
  5: 'every 5 minutes',
  15: 'every quarter of an hour',
  60: 'every hour',
  1440: 'every day',
};

/** Where in an address the position stands up to which it was read: the source then answers with what came after. */
export const POSITION = '{after}';

/** Whether a source answers with what came after a position, and not with all there is. */
export const tellsWhatChanged = (url: string): boolean => url.includes(POSITION);

/** What a sheet follows, as its page shows it. Instants are milliseconds since 1970. */
export interface Following {
  url: string;
  header: string;
  hasSecret: boolean;
  everyMinutes: number;
  /** JSON pointers (RFC 6901): to the list of rows in the answer; in a row, to what sets it apart; to whether it is gone. */
  rows: string;
  key: string;
  gone: string;
  /** In the answer, to the position up to which it tells. */
  after: string;
  /** In a row, to what each column holds, by the id of the column. */
  columns: Record<string, string>;
  revision: number;
  /** How many records of the sheet come from there. */
  records: number;
  readMs: number | null;
  nextMs: number;
  trouble: string | null;
  warnings: string[];
}

/** A list of rows found in an answer: where it is, and what its first rows hold, by pointer. */
export interface FoundList {
  pointer: string;
  rows: number;
  /** Each pointer that leads to a text, a number, or yes or no in one of its first rows, with what the first of them holds. */
  values: { pointer: string; sample: string }[];
}

const LOOKED_AT = 20;
const MOST_VALUES = 100;

const part = (name: string): string => name.replaceAll('~', '~0').replaceAll('/', '~1');
const isPlain = (value: unknown): value is string | number | boolean =>
  typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean';
const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

function plainValues(row: unknown, at: string, depth: number): [string, string][] {
  if (isPlain(row)) return [[at, String(row)]];
  if (!isObject(row) || depth > 3) return [];
  return Object.entries(row).flatMap(([name, value]) => plainValues(value, `${at}/${part(name)}`, depth + 1));
}

/** The lists of rows in an answer, the longest first: what a sheet could follow. */
export function listsIn(answer: unknown, at = '', depth = 0): FoundList[] {
  if (Array.isArray(answer)) {
    if (!answer.some(isObject)) return [];
    const values = new Map<string, string>();
    for (const row of answer.slice(0, LOOKED_AT))
      for (const [pointer, sample] of plainValues(row, '', 0))
        if (values.size < MOST_VALUES && (values.get(pointer) ?? '') === '')
          values.set(pointer, sample.slice(0, 80));
    return [
      {
        pointer: at,
        rows: answer.length,
        values: [...values].map(([pointer, sample]) => ({ pointer, sample })),
      },
    ];
  }
  if (!isObject(answer) || depth > 4) return [];
  return Object.entries(answer)
    .flatMap(([name, value]) => listsIn(value, `${at}/${part(name)}`, depth + 1))
    .sort((a, b) => b.rows - a.rows);
}

/** The pointer whose last part is most like the name of a column; null where none is like it. */
export function pointerLike(name: string, pointers: readonly string[]): string | null {
  const bare = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
  const wanted = bare(name);
  const last = (pointer: string): string => bare(pointer.split('/').at(-1) ?? '');
  return (
    pointers.find((pointer) => last(pointer) === wanted) ??
    pointers.find((pointer) => bare(pointer) === wanted) ??
    null
  );
}
