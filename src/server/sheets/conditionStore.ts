import {
  foldedText,
  isAgainst,
  rightSide,
  type Condition,
  type Fields,
  type FieldTest,
  type ReadAt,
} from '../../core/automation/condition.ts';
import type { Cells } from '../../core/sheets/sheet.ts';
import { rows, type Database } from '../database/connection.ts';

/** A part of a statement, and what is put in its places. */
export interface Narrowing {
  sql: string;
  values: (string | number)[];
}

/** What the database cannot tell is left to the evaluator: it passes. */
export const PASSES: Narrowing = { sql: '1', values: [] };

const pathOf = (field: string): string | null => {
  const [, column] = /^record\.(c\d{1,4})$/.exec(field) ?? [];
  return column === undefined ? null : `$.${column}`;
};

/** How far numbers may lie apart here that the evaluator takes for equal: more than rounding ever does. */
const ROUNDING = 1e-9;
const COMPARED: Partial<Record<FieldTest['test'], string>> = {
  'is over': '>=',
  'is at least': '>=',
  'is after': '>=',
  'is under': '<=',
  'is at most': '<=',
  'is before': '<=',
};

function numbers({ test, against }: FieldTest, path: string): Narrowing {
  const left = 'CAST(JSON_VALUE(cells, ?) AS DOUBLE)';
  let right: Narrowing;
  if (against.kind === 'field') {
    const other = pathOf(against.field);
    if (other === null) return PASSES;
    right = { sql: `${left} * CAST(? AS DOUBLE)`, values: [other, against.share / 100] };
  } else if (against.kind === 'value' && Number.isFinite(Number(against.value)))
    right = { sql: 'CAST(? AS DOUBLE)', values: [Number(against.value)] };
  else return PASSES;
  const order = COMPARED[test];
  if (order === '>=')
    return {
      sql: `${left} >= ${right.sql} - ABS(${right.sql}) * ${ROUNDING}`,
      values: [path, ...right.values, ...right.values],
    };
  if (order === '<=')
    return {
      sql: `${left} <= ${right.sql} + ABS(${right.sql}) * ${ROUNDING}`,
      values: [path, ...right.values, ...right.values],
    };
  return test === 'is'
    ? {
        sql: `ABS(${left} - ${right.sql}) <= ABS(${right.sql}) * ${ROUNDING}`,
        values: [path, ...right.values, ...right.values],
      }
    : PASSES;
}

/** Only plain ASCII is compared here: how other letters are folded is for the evaluator to say. */
const OTHER_LETTERS = "JSON_VALUE(cells, ?) REGEXP '[^ -~]'";

function texts({ test }: FieldTest, path: string, right: string): Narrowing {
  const same = 'LOWER(TRIM(JSON_VALUE(cells, ?))) = ?';
  switch (test) {
    case 'is':
      return { sql: `(${OTHER_LETTERS} OR ${same})`, values: [path, path, foldedText(right)] };
    case 'is one of': {
      const wanted = right.split(',').map(foldedText);
      return {
        sql: `(${[OTHER_LETTERS, ...wanted.map(() => same)].join(' OR ')})`,
        values: [path, ...wanted.flatMap((each) => [path, each])],
      };
    }
    case 'contains':
      return {
        sql: `(${OTHER_LETTERS} OR INSTR(LOWER(JSON_VALUE(cells, ?)), ?) > 0)`,
        values: [path, path, foldedText(right)],
      };
    default:
      return PASSES;
  }
}

function ofTest(test: FieldTest, fields: Fields, at: ReadAt, until: ReadAt): Narrowing {
  const path = pathOf(test.field);
  const kind = fields.get(test.field)?.kind;
  if (path === null || kind === undefined) return PASSES;
  if (!isAgainst(test.test))
    return {
      sql: `COALESCE(JSON_VALUE(cells, ?), '') ${test.test === 'is empty' ? '=' : '<>'} ''`,
      values: [path],
    };
  if (test.test === 'is not') return PASSES;
  if (kind === 'number') return numbers(test, path);
  if (test.against.kind === 'field') return PASSES;
  const first = rightSide(test.against, kind, new Map(), at);
  const last = rightSide(test.against, kind, new Map(), until);
  const order = COMPARED[test.test];
  const value = 'JSON_VALUE(cells, ?) COLLATE utf8mb4_bin';
  if (kind === 'date' || kind === 'moment') {
    if (order !== undefined)
      return { sql: `${value} ${order} ?`, values: [path, order === '>=' ? first : last] };
    if (test.test === 'is' && first !== last)
      return { sql: `${value} BETWEEN ? AND ?`, values: [path, first, last] };
  }
  return first === last ? texts(test, path, first) : PASSES;
}

/**
 * What the database can tell of a condition: it leaves out nothing of which the condition holds at an instant, or at any
 * instant from then until a later one.
 */
export function narrowing(condition: Condition, fields: Fields, at: ReadAt, until = at): Narrowing {
  if (condition.kind === 'test') return ofTest(condition, fields, at, until);
  const parts = condition.of.map((each) => narrowing(each, fields, at, until));
  if (parts.length === 0) return { sql: condition.kind === 'all' ? '1' : '0', values: [] };
  return {
    sql: `(${parts.map((part) => part.sql).join(condition.kind === 'all' ? ' AND ' : ' OR ')})`,
    values: parts.flatMap((part) => part.values),
  };
}

/** More records than this are not held in memory at once. */
export const MOST_RECORDS = 500_000;

/**
 * The records of a sheet of which a condition may hold: all those of which it does hold, and perhaps some of which it does
 * not, so that the evaluator in the core has the last word. What the database can tell by itself is left out there.
 *
 * @throws where there are more than are held in memory at once
 */
export async function recordsThatMay(
  db: Database,
  sheetId: number,
  condition: Condition,
  fields: Fields,
  at: ReadAt,
): Promise<{ id: number; cells: Cells }[]> {
  const { sql, values } = narrowing(condition, fields, at);
  const found = await rows<{ id: number; cells: string }>(
    db,
    `SELECT id, cells FROM records WHERE sheet_id = ? AND ${sql} ORDER BY id LIMIT ?`,
    [sheetId, ...values, MOST_RECORDS + 1],
  );
  if (found.length > MOST_RECORDS)
    throw new Error(
      `More than ${MOST_RECORDS.toLocaleString('en-GB')} records of the sheet may meet its conditions`,
    );
  return found.map((row) => ({ id: row.id, cells: JSON.parse(row.cells) as Cells }));
}
