import { isSafeLink } from '../content/link.ts';
import { dateWords, momentWords } from '../timing/words.ts';

/** What a column of a record sheet can hold. */
export const CELL_KINDS = [
  'text',
  'number',
  'yes or no',
  'date',
  'moment',
  'choice',
  'person',
  'link',
] as const;
export type CellKind = (typeof CELL_KINDS)[number];

export const MAX_CELL = 2000;

/** What a cell is read by: of a column, or of a field of an automation. */
export interface CellType {
  kind: CellKind;
  /** Of a number: what it is counted in, such as `%`. */
  unit: string;
  /** Of a choice. */
  choices: readonly string[];
}

/** A cell as it is kept, or why it cannot be: a sentence for whoever wrote it. */
export type CellRead = { value: string } | { problem: string };

const problem = (text: string): CellRead => ({ problem: text });

const isDate = (text: string): boolean => {
  const [, y, m, d] = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text) ?? [];
  if (y === undefined) return false;
  const date = new Date(`${y}-${m}-${d}T00:00:00Z`);
  return !Number.isNaN(date.getTime()) && date.toISOString().startsWith(text);
};

const YES = new Set(['yes', 'y', 'true', '1', 'x']);
const NO = new Set(['no', 'n', 'false', '0']);

/** Numbers beyond this are no quantities, and could not be multiplied. */
const LARGEST = 1e100;

/** A number as it is written with a point or a comma for its fraction, and with thousands set off. */
function numberOf(text: string, unit: string): string | null {
  const bare = text
    .replace(unit === '' ? /$^/ : new RegExp(`\\s*${unit.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}$`, 'u'), '')
    .replace(/[\s\u00a0\u202f'’]/g, '');
  const plain = /^[-+−]?\d{1,3}(,\d{3})+(\.\d+)?$/.test(bare)
    ? bare.replaceAll(',', '')
    : bare.replace(',', '.');
  const signed = plain.replace('−', '-');
  if (!/^[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d{1,2})?$/i.test(signed)) return null;
  const value = Number(signed);
  return Math.abs(value) < LARGEST ? String(value) : null;
}

/**
 * Reads what somebody wrote into a cell. What is kept: text as it is; numbers with a point; `yes` and `no`; dates as
 * YYYY-MM-DD; moments as RFC 3339 in UTC, to the minute; of a choice the choice as it is spelt. Empty is empty.
 */
export function readCell(type: CellType, written: string): CellRead {
  const text = written.trim();
  if (text === '') return { value: '' };
  if (text.length > MAX_CELL)
    return problem(`A cell holds at most ${MAX_CELL.toLocaleString('en-GB')} characters.`);
  switch (type.kind) {
    case 'text':
    case 'person':
      return { value: text.normalize('NFC') };
    case 'number': {
      const value = numberOf(text, type.unit);
      return value === null ? problem(`“${text}” is no number. Write one such as 12.5.`) : { value };
    }
    case 'yes or no': {
      const said = text.toLowerCase();
      if (YES.has(said)) return { value: 'yes' };
      return NO.has(said) ? { value: 'no' } : problem(`“${text}” is neither yes nor no.`);
    }
    case 'date':
      return isDate(text) ? { value: text } : problem(`“${text}” is no date. Write one such as 2026-12-31.`);
    case 'moment': {
      const ms = /^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}/.test(text)
        ? Date.parse(/(Z|[+-]\d{2}:?\d{2})$/.test(text) ? text : `${text.replace(' ', 'T')}Z`)
        : Number.NaN;
      return Number.isNaN(ms)
        ? problem(`“${text}” is no date with a time. Write one such as 2026-12-31 09:00, in UTC.`)
        : { value: `${new Date(ms).toISOString().slice(0, 16)}Z` };
    }
    case 'choice': {
      const found = type.choices.find((each) => each.toLowerCase() === text.toLowerCase());
      return found === undefined
        ? problem(`“${text}” is none of ${type.choices.join(', ')}.`)
        : { value: found };
    }
    case 'link':
      return isSafeLink(text) ? { value: text } : problem(`“${text}” is no link. One begins with https://.`);
  }
}

const numbers = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 6 });

/** A cell as a reader reads it, moments in the reader's zone. */
export function cellWords(type: CellType, value: string, zone: string): string {
  if (value === '') return '';
  switch (type.kind) {
    case 'number': {
      const number = numbers.format(Number(value));
      return type.unit === '' ? number : `${number}${/^[%°]/.test(type.unit) ? '' : ' '}${type.unit}`;
    }
    case 'date':
      return dateWords(Date.parse(`${value}T00:00:00Z`), 'UTC');
    case 'moment':
      return momentWords(Date.parse(value), zone);
    default:
      return value;
  }
}

/** Orders two cells of a kind; empty ones last. */
export function compareCells(kind: CellKind, one: string, other: string): number {
  if (one === '' || other === '') return one === other ? 0 : one === '' ? 1 : -1;
  if (kind === 'number') return Number(one) - Number(other);
  return one.localeCompare(other, 'en', { sensitivity: 'base', numeric: true });
}
