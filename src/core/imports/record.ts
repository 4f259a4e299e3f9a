import { z } from 'zod';
import { isBlank } from '../content/document.ts';
import { normalMail } from '../people/mailAddress.ts';
import { sortNameOf } from '../people/names.ts';
import { isZone } from '../timing/wallTime.ts';
import type { Column } from './columns.ts';

const cell = z.string().max(1000);

/** One row of a list as it was read: the texts of the columns that are used. What is not in the file is left out. */
export const rawRecordSchema = z.strictObject({
  /** Which row of the file it is. */
  line: z.int().positive().max(10_000_000),
  name: cell,
  sortName: cell.optional(),
  greeting: cell.optional(),
  mail: cell.optional(),
  station: cell.optional(),
  occupation: cell.optional(),
  zone: cell.optional(),
  joinedOn: cell.optional(),
  attributes: z.record(z.string().trim().min(1).max(60), cell).optional(),
});
export type RawRecord = z.infer<typeof rawRecordSchema>;

/** The order of day and month in dates written with figures only. */
export type DateOrder = 'day first' | 'month first';

/** A row that can be used. What is empty in the file says nothing: what is known of that person stays. */
export interface ImportRecord {
  line: number;
  name: string;
  sortName?: string;
  greeting?: string;
  mail?: string;
  station?: string;
  occupation?: string;
  zone?: string;
  /** YYYY-MM-DD. */
  joinedOn?: string;
  attributes: Record<string, string>;
}

const MOST = {
  name: 160,
  sortName: 160,
  greeting: 80,
  mail: 254,
  station: 120,
  occupation: 80,
  attribute: 120,
} as const;

const FIELD_NAMES = {
  sortName: 'name to sort by',
  greeting: 'greeting',
  station: 'station',
  occupation: 'occupation',
} as const;

/** Plain spaces, and without the sign that keeps a spreadsheet from running a cell as a formula. */
const spaced = (text: string): string =>
  text
    .normalize('NFC')
    .replace(/[\p{Cc}\s]+/gu, ' ')
    .trim()
    .replace(/^'(?=[=+\-@\uFF1D\uFF0B\uFF0D\uFF20])/u, '');

const isAddress = (mail: string): boolean => z.email().safeParse(mail).success;

/** Puts the cells of a row under the columns they belong to. */
export function rawRecord(cells: readonly string[], columns: readonly Column[], line: number): RawRecord {
  const found = new Map<Column, string>();
  columns.forEach((column, at) => {
    if (column !== 'nothing') found.set(column, (cells[at] ?? '').slice(0, 1000));
  });
  const attributes = Object.fromEntries(
    [...found]
      .filter(([column]) => column.startsWith('attribute:'))
      .map(([column, text]) => [column.slice('attribute:'.length), text]),
  );
  const given = spaced(found.get('given') ?? '');
  const family = spaced(found.get('family') ?? '');
  const record: RawRecord = {
    line,
    name: found.get('name') ?? [given, family].filter(Boolean).join(' '),
  };
  const sortName = sortNameOf(given, family);
  if (sortName !== '') record.sortName = sortName;
  for (const field of [
    'sortName',
    'greeting',
    'mail',
    'station',
    'occupation',
    'zone',
    'joinedOn',
  ] as const) {
    const text = found.get(field);
    if (text !== undefined) record[field] = text;
  }
  return Object.keys(attributes).length === 0 ? record : { ...record, attributes };
}

/**
 * Some rows of a list under the columns they belong to: as many as there may be, and as fit into a request; one at least.
 *
 * @param mostLetters most letters of all of them as JSON
 */
export function recordsFrom(
  rows: readonly { line: number; cells: readonly string[] }[],
  columns: readonly Column[],
  from: number,
  most: number,
  mostLetters: number,
): RawRecord[] {
  const records: RawRecord[] = [];
  let letters = 0;
  for (const { line, cells } of rows.slice(from, from + most)) {
    const record = rawRecord(cells, columns, line);
    letters += JSON.stringify(record).length;
    if (records.length > 0 && letters > mostLetters) break;
    records.push(record);
  }
  return records;
}

/** The order of day and month that the dates of a column tell, or null where all of them can be read either way. */
export function dateOrderOf(cells: readonly string[]): DateOrder | null {
  for (const text of cells) {
    const parts = /^\s*(\d{1,2})[./-](\d{1,2})[./-]\d{4}\s*$/.exec(text);
    if (!parts) continue;
    if (Number(parts[1]) > 12) return 'day first';
    if (Number(parts[2]) > 12) return 'month first';
  }
  return null;
}

/** A date as YYYY-MM-DD; null where it is none there is. */
export function dateOf(text: string, order: DateOrder): string | null {
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})(?:[T ].*)?$/.exec(text);
  const figures = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4})$/.exec(text);
  const [year, month, day] = iso
    ? [iso[1], iso[2], iso[3]].map(Number)
    : figures
      ? order === 'day first'
        ? [figures[3], figures[2], figures[1]].map(Number)
        : [figures[3], figures[1], figures[2]].map(Number)
      : [];
  if (year === undefined || month === undefined || day === undefined) return null;
  const at = new Date(Date.UTC(year, month - 1, day));
  if (year < 1900 || year > 2100 || at.getUTCMonth() !== month - 1 || at.getUTCDate() !== day) return null;
  return at.toISOString().slice(0, 10);
}

/** What a row says, checked; or what is wrong with it, each with its remedy. */
export function checkRecord(
  raw: RawRecord,
  order: DateOrder,
): { record: ImportRecord } | { problems: string[] } {
  const problems: string[] = [];
  const record: ImportRecord = { line: raw.line, name: spaced(raw.name), attributes: {} };
  if (isBlank(record.name)) problems.push('The name is missing. Write it into the file.');
  if (record.name.length > MOST.name)
    problems.push(`The name has ${record.name.length} characters; at most ${MOST.name} are kept.`);

  const mail = normalMail(raw.mail ?? '');
  if (mail !== '') {
    if (mail.length > MOST.mail || !isAddress(mail))
      problems.push(
        `“${spaced(raw.mail ?? '').slice(0, 80)}” is not a mail address. Correct it or empty the cell.`,
      );
    else record.mail = mail;
  }
  for (const field of ['sortName', 'greeting', 'station', 'occupation'] as const) {
    const text = spaced(raw[field] ?? '');
    if (text.length > MOST[field])
      problems.push(
        `The ${FIELD_NAMES[field]} has ${text.length} characters; at most ${MOST[field]} are kept.`,
      );
    else if (text !== '') record[field] = text;
  }
  const zone = spaced(raw.zone ?? '');
  if (zone !== '') {
    if (isZone(zone)) record.zone = zone;
    else problems.push(`There is no time zone “${zone.slice(0, 60)}”. Write one such as Europe/London.`);
  }
  const joined = spaced(raw.joinedOn ?? '');
  if (joined !== '') {
    const date = dateOf(joined, order);
    if (date === null)
      problems.push(
        `“${joined.slice(0, 40)}” is not a date. Write it as year-month-day, such as 2026-03-09.`,
      );
    else record.joinedOn = date;
  }
  for (const [name, given] of Object.entries(raw.attributes ?? {})) {
    const text = spaced(given);
    if (text.length > MOST.attribute)
      problems.push(`“${name}” has ${text.length} characters; at most ${MOST.attribute} are kept.`);
    else if (text !== '') record.attributes[name] = text;
  }
  return problems.length > 0 ? { problems } : { record };
}
