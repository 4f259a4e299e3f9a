import { Environment, type ASTNode } from '@marcbachmann/cel-js';
import { lengthOf } from '../content/text.ts';
import { MAX_CELL, type CellKind } from './cell.ts';
import { CALCULATED_KINDS, mayCalculate } from './calculated.ts';
import { withDecimals, withNames } from './formulaNames.ts';
import { isCalculated, type Cells, type SheetColumn } from './sheet.ts';

/**
 * Columns that are calculated from others, by expressions of the Common Expression Language (CEL): it has no loops that could go on
 * for ever, and what stands here allows neither its lists nor its patterns. Numbers are all of one kind, dates and moments too.
 */

type CelType = 'double' | 'string' | 'bool' | 'google.protobuf.Timestamp';
const TYPE_OF: Record<CellKind, CelType> = {
  text: 'string',
  choice: 'string',
  person: 'string',
  link: 'string',
  number: 'double',
  'yes or no': 'bool',
  date: 'google.protobuf.Timestamp',
  moment: 'google.protobuf.Timestamp',
};

const DAY_MS = 86_400_000;

/** What a formula may call, and how: the first is what is shown to whoever writes one. */
export const FUNCTIONS: readonly { usage: string; name: string; does: string }[] = [
  { name: 'round', usage: 'round(number, digits)', does: 'rounded to so many digits' },
  { name: 'floor', usage: 'floor(number)', does: 'rounded down' },
  { name: 'ceil', usage: 'ceil(number)', does: 'rounded up' },
  { name: 'abs', usage: 'abs(number)', does: 'without its sign' },
  { name: 'min', usage: 'min(number, number)', does: 'the smaller of two' },
  { name: 'max', usage: 'max(number, number)', does: 'the larger of two' },
  { name: 'days', usage: 'days(from, to)', does: 'days from one date to another' },
  { name: 'hours', usage: 'hours(from, to)', does: 'hours from one moment to another' },
  { name: 'plusDays', usage: 'plusDays(date, number)', does: 'so many days later' },
  { name: 'date', usage: 'date("2026-12-31")', does: 'that day' },
  { name: 'year', usage: 'year(date)', does: 'its year' },
  { name: 'month', usage: 'month(date)', does: 'its month, 1 to 12' },
  { name: 'day', usage: 'day(date)', does: 'its day of the month' },
  { name: 'text', usage: 'text(number)', does: 'as text' },
  { name: 'length', usage: 'length(text)', does: 'how many characters' },
  { name: 'lower', usage: 'lower(text)', does: 'in small letters' },
  { name: 'upper', usage: 'upper(text)', does: 'in capitals' },
];
const NAMES = new Set(FUNCTIONS.map(({ name }) => name));

const OPERATORS = new Set([
  'value',
  'id',
  'call',
  '?:',
  '||',
  '&&',
  '!_',
  '-_',
  '==',
  '!=',
  '<',
  '<=',
  '>',
  '>=',
  '+',
  '-',
  '*',
  '/',
]);

const rounded = (value: number, digits: number): number => {
  const places = 10 ** Math.min(Math.max(Math.trunc(digits), 0), 9);
  return Math.sign(value) * (Math.round(Math.abs(value) * places + 1e-9) / places);
};

function environment(columns: readonly SheetColumn[]): Environment {
  const made = new Environment({ limits: { maxAstNodes: 400, maxDepth: 40 } });
  for (const column of columns) made.registerVariable(column.id, TYPE_OF[column.kind]);
  const date = 'google.protobuf.Timestamp';
  return made
    .registerFunction('round(double): double', (value: number) => rounded(value, 0))
    .registerFunction('round(double, double): double', rounded)
    .registerFunction('floor(double): double', Math.floor)
    .registerFunction('ceil(double): double', Math.ceil)
    .registerFunction('abs(double): double', Math.abs)
    .registerFunction('min(double, double): double', (one: number, other: number) => Math.min(one, other))
    .registerFunction('max(double, double): double', (one: number, other: number) => Math.max(one, other))
    .registerFunction(`days(${date}, ${date}): double`, (from: Date, to: Date) =>
      Math.floor((to.getTime() - from.getTime()) / DAY_MS),
    )
    .registerFunction(
      `hours(${date}, ${date}): double`,
      (from: Date, to: Date) => (to.getTime() - from.getTime()) / 3_600_000,
    )
    .registerFunction(
      `plusDays(${date}, double): ${date}`,
      (from: Date, days: number) => new Date(from.getTime() + Math.trunc(days) * DAY_MS),
    )
    .registerFunction(`date(string): ${date}`, dayOf)
    .registerFunction(`year(${date}): double`, (of: Date) => of.getUTCFullYear())
    .registerFunction(`month(${date}): double`, (of: Date) => of.getUTCMonth() + 1)
    .registerFunction(`day(${date}): double`, (of: Date) => of.getUTCDate())
    .registerFunction('text(double): string', (value: number) => numberText(value))
    .registerFunction('length(string): double', lengthOf)
    .registerFunction('lower(string): string', (value: string) => value.toLowerCase())
    .registerFunction('upper(string): string', (value: string) => value.toUpperCase());
}

/** A day as it is written, at its beginning in UTC. @throws where there is no such day */
function dayOf(written: string): Date {
  const day = new Date(`${written}T00:00:00Z`);
  if (!day.toISOString().startsWith(written)) throw new RangeError(`There is no day ${written}`);
  return day;
}

/** A number as a cell keeps it, without what floating point leaves behind. */
const numberText = (value: number): string => String(Number(value.toPrecision(12)));

const isNode = (value: unknown): value is ASTNode =>
  typeof value === 'object' && value !== null && 'op' in value && 'args' in value;

/** All that an expression is made of. */
function nodesOf(node: ASTNode): ASTNode[] {
  const parts = (value: unknown): ASTNode[] =>
    Array.isArray(value) ? value.flatMap(parts) : isNode(value) ? nodesOf(value) : [];
  return [node, ...parts(node.args)];
}

const TYPE_WORDS: Record<string, string> = {
  double: 'a number',
  int: 'a number',
  string: 'text',
  bool: 'yes or no',
  'google.protobuf.Timestamp': 'a date',
};
const typeWords = (type: string): string => TYPE_WORDS[type.trim()] ?? type.trim();

/** What the checker says is wrong, for whoever wrote the formula. */
function problemWords(error: unknown): string {
  const said = (error instanceof Error ? error.message : String(error)).split('\n')[0] ?? '';
  const two = /no such overload: (\S+) (\S+) (\S+)/.exec(said);
  if (two)
    return `${typeWords(two[1] ?? '')} and ${typeWords(two[3] ?? '')} do not go with “${two[2]}”.`.replace(
      /^./,
      (first) => first.toUpperCase(),
    );
  const called = /overload for '(\w+)\(([^)]*)\)'/.exec(said);
  if (called) {
    const usage = FUNCTIONS.find(({ name }) => name === called[1])?.usage ?? called[1];
    const given = (called[2] ?? '').split(',').filter(Boolean).map(typeWords).join(' and ') || 'nothing';
    return `${called[1]} does not take ${given}. Write ${usage}.`;
  }
  if (/same type/.test(said)) return 'Both outcomes of “? … : …” are of one kind: two numbers, or two texts.';
  if (/condition/i.test(said)) return 'Before “?” stands something that is yes or no, such as a comparison.';
  return 'It cannot be read. Look for a bracket, a quote or a sign that is missing or one too many.';
}

interface Compiled {
  column: SheetColumn;
  /** The columns it is calculated from. */
  from: SheetColumn[];
  value: (context: Record<string, unknown>) => unknown;
}

/** A formula made ready, or what is wrong with it. */
function compiled(
  column: SheetColumn,
  columns: readonly SheetColumn[],
  known: Environment,
): Compiled | { problem: string } {
  if (!mayCalculate(column.kind))
    return { problem: `What is calculated is ${CALCULATED_KINDS.join(', ')}; not ${column.kind}.` };
  const formula = withDecimals(column.formula ?? '');
  try {
    const parsed = known.parse(formula);
    const nodes = nodesOf(parsed.ast);
    for (const node of nodes) {
      if (node.op === 'call' && !NAMES.has(node.args[0]))
        return { problem: `There is no “${node.args[0]}” here. There are ${[...NAMES].join(', ')}.` };
      if (!OPERATORS.has(node.op))
        return {
          problem: 'It uses something that is no sum, comparison, choice or one of the named workings.',
        };
      if (node.op === 'value' && node.args === null)
        return { problem: 'Nothing is compared with null: where a column is empty, so is the result.' };
    }
    const ids = new Set(nodes.flatMap((node) => (node.op === 'id' ? [node.args] : [])));
    const missing = [...ids].find((id) => !columns.some((each) => each.id === id));
    if (missing !== undefined)
      return {
        problem: `“${missing}” is no column of this sheet. Names of columns stand in square brackets: [Name].`,
      };
    const checked = known.check(formula);
    if (!checked.valid) return { problem: problemWords(checked.error) };
    if (checked.type !== TYPE_OF[column.kind])
      return {
        problem: `It gives ${typeWords(String(checked.type))}, and the column holds ${typeWords(TYPE_OF[column.kind])}. Change one of them.`,
      };
    return {
      column,
      from: columns.filter((each) => ids.has(each.id)),
      value: (context) => parsed(context) as unknown,
    };
  } catch (error) {
    return { problem: problemWords(error) };
  }
}

/** Puts each after those it is calculated from. Those left over go in a circle. */
function inOrder(all: readonly Compiled[]): { ordered: Compiled[]; circle: Compiled[] } {
  const ordered: Compiled[] = [];
  let left = [...all];
  for (;;) {
    const waiting = new Set(left.map(({ column }) => column.id));
    const ready = left.filter(({ from }) => !from.some(({ id }) => waiting.has(id)));
    if (ready.length === 0) return { ordered, circle: left };
    ordered.push(...ready);
    left = left.filter((each) => !ready.includes(each));
  }
}

/** A cell as a formula reads it; undefined where nothing can be calculated from it. */
function given(kind: CellKind, value: string): unknown {
  switch (TYPE_OF[kind]) {
    case 'string':
      return value;
    case 'double': {
      const number = Number(value);
      return value === '' || Number.isNaN(number) ? undefined : number;
    }
    case 'bool':
      return value === 'yes' ? true : value === 'no' ? false : undefined;
    case 'google.protobuf.Timestamp': {
      const at = new Date(kind === 'date' ? `${value}T00:00:00Z` : value);
      return value === '' || Number.isNaN(at.getTime()) ? undefined : at;
    }
  }
}

/** What was calculated as a cell keeps it: empty where it is no quantity, no date, or too long. */
function kept(kind: CellKind, value: unknown): string {
  if (typeof value === 'number') return Math.abs(value) < 1e100 ? numberText(value) : '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'string') return value.length > MAX_CELL ? '' : value.trim().normalize('NFC');
  if (!(value instanceof Date) || Number.isNaN(value.getTime())) return '';
  const iso = value.toISOString();
  if (!/^\d{4}-/.test(iso)) return '';
  return kind === 'date' ? iso.slice(0, 10) : `${iso.slice(0, 16)}Z`;
}

function one({ column, from, value }: Compiled, cells: Cells): string {
  const context: Record<string, unknown> = {};
  for (const each of from) {
    const read = given(each.kind, cells[each.id] ?? '');
    if (read === undefined) return '';
    context[each.id] = read;
  }
  try {
    return kept(column.kind, value(context));
  } catch {
    return '';
  }
}

/** What is wrong with the formulas of a sheet: the place of the column, and a sentence for whoever wrote it. */
export function formulaProblems(columns: readonly SheetColumn[]): { at: number; problem: string }[] {
  const problems: { at: number; problem: string }[] = [];
  const right: Compiled[] = [];
  const known = environment(columns);
  columns.forEach((column, at) => {
    if (!isCalculated(column)) return;
    const made = compiled(column, columns, known);
    if ('problem' in made) problems.push({ at, problem: withNames(made.problem, columns) });
    else right.push(made);
  });
  const [first] = inOrder(right).circle;
  if (first) {
    const names = inOrder(right).circle.map(({ column }) => `“${column.name}”`);
    problems.push({
      at: columns.indexOf(first.column),
      problem: `${names.join(' and ')} ${names.length === 1 ? 'is calculated from itself' : 'are calculated from each other'}. One of them has to stand on its own.`,
    });
  }
  return problems;
}

/**
 * Calculates what is calculated in a sheet: gives back the cells with all calculated columns as they follow from the others.
 * Where a number, date, moment, or yes or no that a formula reads is empty, its result is empty too; empty text is text without
 * letters. What cannot be calculated, such as a division by zero, is empty.
 */
export function calculator(columns: readonly SheetColumn[]): (cells: Cells) => Cells {
  const calculated = columns.filter(isCalculated);
  if (calculated.length === 0) return (cells) => cells;
  const known = environment(columns);
  const made = calculated.map((column) => compiled(column, columns, known));
  const ids = new Set(calculated.map(({ id }) => id));
  const { ordered } = inOrder(made.filter((each): each is Compiled => !('problem' in each)));
  return (cells) => {
    const result = Object.fromEntries(Object.entries(cells).filter(([id]) => !ids.has(id)));
    for (const each of ordered) {
      const value = one(each, result);
      if (value !== '') result[each.column.id] = value;
    }
    return result;
  };
}
