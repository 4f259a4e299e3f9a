import { z } from 'zod';
import { compareCells, readCell, type CellKind, type CellType } from '../sheets/cell.ts';
import { dateAt, dayAfter } from '../timing/wallTime.ts';
import { count, list } from '../words.ts';

/** How a field is tested. */
export const TESTS = [
  'is filled in',
  'is empty',
  'is',
  'is not',
  'is one of',
  'contains',
  'is over',
  'is at least',
  'is under',
  'is at most',
  'is before',
  'is after',
] as const;
export type Test = (typeof TESTS)[number];

export const SPANS = ['minutes', 'hours', 'days'] as const;
/** How long each is, in milliseconds. */
export const SPAN_MS = { minutes: 60_000, hours: 3_600_000, days: 86_400_000 };

/** What a field is held against: a value; another field, or a share of it in percent; or now and so long. */
const againstSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('value'), value: z.string().max(400) }),
  z.object({
    kind: z.literal('field'),
    field: z.string().max(60),
    share: z.number().min(0.1, 'A share is over 0').max(10_000, 'A share is at most 10,000 percent'),
  }),
  z.object({
    kind: z.literal('now'),
    /** So much later than now; below 0 earlier. */
    span: z.int().min(-100_000).max(100_000),
    unit: z.enum(SPANS),
  }),
]);
export type Against = z.infer<typeof againstSchema>;

export interface FieldTest {
  kind: 'test';
  field: string;
  test: Test;
  against: Against;
}
export type Condition = { kind: 'all' | 'any'; of: Condition[] } | FieldTest;

const testSchema = z.object({
  kind: z.literal('test'),
  field: z.string().min(1, 'Choose a field').max(60),
  test: z.enum(TESTS),
  against: againstSchema,
});

const MAX_DEPTH = 5;
const MOST_TESTS = 40;
const depthOf = (condition: Condition): number =>
  condition.kind === 'test' ? 1 : 1 + Math.max(0, ...condition.of.map(depthOf));

const unboundedSchema: z.ZodType<Condition> = z.lazy(() =>
  z.union([
    testSchema,
    z.object({ kind: z.enum(['all', 'any']), of: z.array(unboundedSchema).max(MOST_TESTS) }),
  ]),
);

/** When something holds: tests of fields, all or any of them, nested. `all` of nothing always holds, `any` of nothing never. */
export const conditionSchema = unboundedSchema.refine(
  (condition) => depthOf(condition) <= MAX_DEPTH && testsIn(condition).length <= MOST_TESTS,
  `A condition has at most ${MOST_TESTS} tests, nested ${MAX_DEPTH} deep`,
);

export const ALWAYS: Condition = { kind: 'all', of: [] };

export function testsIn(condition: Condition): FieldTest[] {
  return condition.kind === 'test' ? [condition] : condition.of.flatMap(testsIn);
}

/** A field as conditions and texts name it. */
export interface FieldInfo extends CellType {
  name: string;
  label: string;
}

export type Fields = ReadonlyMap<string, FieldInfo>;
/** What fields hold, by their names, as cells are kept; what is left out is empty. */
export type Values = ReadonlyMap<string, string>;

/** The tests that make sense of a kind of field. */
export function testsFor(kind: CellKind): readonly Test[] {
  const filled: Test[] = ['is filled in', 'is empty'];
  switch (kind) {
    case 'number':
      return ['is over', 'is at least', 'is under', 'is at most', 'is', 'is not', ...filled];
    case 'date':
    case 'moment':
      return ['is before', 'is after', 'is', ...filled];
    case 'yes or no':
      return ['is', ...filled];
    case 'choice':
      return ['is', 'is not', 'is one of', ...filled];
    default:
      return ['is', 'is not', 'is one of', 'contains', ...filled];
  }
}

/** Whether a test is of something, besides the field itself. */
export const isAgainst = (test: Test): boolean => test !== 'is filled in' && test !== 'is empty';

/** Text as it is compared: letters of either size alike, one form of Unicode, without space around it. */
export const foldedText = (text: string): string => text.trim().normalize('NFKC').toLowerCase();

/** The moment a condition is read at, and the zone whose calendar days count. */
export interface ReadAt {
  nowMs: number;
  zone: string;
}

/** What somebody wrote as a cell of a kind is kept; empty where it cannot be. */
function keptAs(kind: CellKind, written: string): string {
  const read = readCell({ kind, unit: '', choices: [] }, written);
  return 'value' in read ? read.value : '';
}

/** What a test holds a field against, as a cell of the field's kind; empty where that cannot be told. */
export function rightSide(against: Against, kind: CellKind, values: Values, at: ReadAt): string {
  switch (against.kind) {
    case 'value':
      // A date or a moment as cells are kept, however it was written.
      return kind === 'date' || kind === 'moment' ? keptAs(kind, against.value) : against.value;
    case 'field': {
      const other = values.get(against.field) ?? '';
      if (other === '' || kind !== 'number') return other;
      return Number.isNaN(Number(other)) ? '' : String((Number(other) * against.share) / 100);
    }
    case 'now':
      return nowAs(kind, against, at);
  }
}

/** What now is, or so long before or after it, as it was told for the records read at one instant. */
const told = new WeakMap<ReadAt, Map<string, string>>();

function nowAs(kind: CellKind, { span, unit }: Extract<Against, { kind: 'now' }>, at: ReadAt): string {
  const known = told.get(at) ?? new Map<string, string>();
  told.set(at, known);
  const key = `${kind} ${span} ${unit}`;
  let words = known.get(key);
  if (words === undefined) {
    words =
      kind === 'date'
        ? dayAfter(dateAt(at.nowMs, at.zone), Math.trunc((span * SPAN_MS[unit]) / SPAN_MS.days))
        : `${new Date(at.nowMs + span * SPAN_MS[unit]).toISOString().slice(0, 16)}Z`;
    known.set(key, words);
  }
  return words;
}

function holdsTest({ field, test, against }: FieldTest, fields: Fields, values: Values, at: ReadAt): boolean {
  const left = values.get(field) ?? '';
  const kind = fields.get(field)?.kind ?? 'text';
  if (test === 'is filled in') return left !== '';
  if (test === 'is empty') return left === '';
  const right = rightSide(against, kind, values, at);
  const same = kind === 'number' ? Number(left) === Number(right) : foldedText(left) === foldedText(right);
  if (test === 'is not') return left === '' || right === '' ? foldedText(left) !== foldedText(right) : !same;
  if (left === '' || right === '') return false;
  if (
    kind === 'number' &&
    (Number.isNaN(Number(left)) || (test !== 'is one of' && Number.isNaN(Number(right))))
  )
    return false;
  switch (test) {
    case 'is':
      return same;
    case 'is one of':
      return right
        .split(',')
        .some((each) => foldedText(each) !== '' && foldedText(each) === foldedText(left));
    case 'contains':
      return foldedText(left).includes(foldedText(right));
    default: {
      const order = kind === 'number' ? Number(left) - Number(right) : compareCells(kind, left, right);
      switch (test) {
        case 'is over':
        case 'is after':
          return order > 0;
        case 'is at least':
          return order >= 0;
        case 'is under':
        case 'is before':
          return order < 0;
        case 'is at most':
          return order <= 0;
      }
    }
  }
}

/**
 * Whether a condition holds for some values. A comparison of which one side is empty does not hold, but for `is not`: what
 * is empty is not something else.
 */
export function holdsFor(condition: Condition, fields: Fields, values: Values, at: ReadAt): boolean {
  switch (condition.kind) {
    case 'test':
      return holdsTest(condition, fields, values, at);
    case 'all':
      return condition.of.every((each) => holdsFor(each, fields, values, at));
    case 'any':
      return condition.of.some((each) => holdsFor(each, fields, values, at));
  }
}

/** Whether a condition can only hold where a field is filled in, so that a text may count on it. */
export function demandsFilled(condition: Condition, field: string): boolean {
  switch (condition.kind) {
    case 'test':
      return condition.field === field
        ? condition.test !== 'is empty' && condition.test !== 'is not'
        : condition.against.kind === 'field' &&
            condition.against.field === field &&
            isAgainst(condition.test) &&
            condition.test !== 'is not';
    case 'all':
      return condition.of.some((each) => demandsFilled(each, field));
    case 'any':
      return condition.of.length > 0 && condition.of.every((each) => demandsFilled(each, field));
  }
}

const SHARES: Record<number, string> = { 90: 'nine tenths of ', 50: 'half of ', 75: 'three quarters of ' };

function againstWords(against: Against, info: FieldInfo | undefined, fields: Fields, test: Test): string {
  switch (against.kind) {
    case 'value':
      return test === 'is one of'
        ? list(
            against.value
              .split(',')
              .map((each) => each.trim())
              .filter(Boolean),
            'or',
          )
        : `${against.value}${info?.unit ?? ''}`;
    case 'field': {
      const name = fields.get(against.field)?.label ?? 'a field that is gone';
      return against.share === 100 ? name : `${SHARES[against.share] ?? `${against.share}% of `}${name}`;
    }
    case 'now': {
      const { span, unit } = against;
      if (span === 0) return info?.kind === 'date' ? 'today' : 'now';
      const one = unit.slice(0, -1);
      return span > 0 ? `${count(span, one, unit)} from now` : `${count(-span, one, unit)} ago`;
    }
  }
}

/** A condition as it is read aloud: "humidity is over nine tenths of its limit and station is filled in". */
export function conditionWords(condition: Condition, fields: Fields): string {
  const read = (each: Condition, inner: boolean): string => {
    if (each.kind === 'test') {
      const info = fields.get(each.field);
      const left = info?.label ?? 'a field that is gone';
      return isAgainst(each.test)
        ? `${left} ${each.test} ${againstWords(each.against, info, fields, each.test)}`
        : `${left} ${each.test}`;
    }
    const parts = each.of.map((part) => read(part, true));
    if (parts.length === 0) return each.kind === 'all' ? 'always' : 'never';
    const words = list(parts, each.kind === 'all' ? 'and' : 'or');
    return inner && parts.length > 1 ? `(${words})` : words;
  };
  return read(condition, false);
}

/** What is wrong with a condition, in words: tests of fields that are gone, or against nothing. */
export function conditionProblems(condition: Condition, fields: Fields): string[] {
  return testsIn(condition).flatMap(({ field, test, against }) => {
    const info = fields.get(field);
    if (!info) return ['A condition tests a field that is not there any more. Choose another.'];
    if (!testsFor(info.kind).includes(test)) return [`${info.label} cannot be tested by “${test}”.`];
    if (!isAgainst(test)) return [];
    if (against.kind === 'value' && against.value.trim() === '')
      return [`Say what ${info.label} is held against.`];
    if (against.kind === 'value' && info.kind === 'number' && Number.isNaN(Number(against.value)))
      return [`${info.label} is held against “${against.value}”, which is no number.`];
    if (
      against.kind === 'value' &&
      (info.kind === 'date' || info.kind === 'moment') &&
      keptAs(info.kind, against.value) === ''
    )
      return [
        `${info.label} is held against “${against.value}”, which is no ${info.kind === 'date' ? 'date. Write one such as 2026-12-31' : 'date with a time. Write one such as 2026-12-31 09:00, in UTC'}.`,
      ];
    if (against.kind === 'field' && !fields.has(against.field))
      return [`${info.label} is held against a field that is not there any more.`];
    return [];
  });
}
