import { parse, type Filter } from 'scim2-parse-filter';
import type { Sql } from '../audience/sql.ts';
import { likeText } from '../people/matching.ts';
import { ScimProblem } from './problem.ts';

/** An attribute a client may filter by, and the SQL expression of it. */
export interface Filterable {
  sql: string;
  kind: 'text' | 'exact text' | 'truth' | 'instant' | 'id';
  /** A condition that holds wherever it equals a value, and is found by an index; the value is bound so many times. */
  among?: { sql: string; times: number };
}

const MOST_CHARACTERS = 2_000;
const MOST_PARTS = 50;
const COMPARED = { eq: '=', ne: '<>', gt: '>', ge: '>=', lt: '<', le: '<=' } as const;

const refuse = (detail: string): ScimProblem => new ScimProblem(400, detail, 'invalidFilter');

/**
 * A filter of RFC 7644, 3.4.2.2 as a condition in SQL.
 *
 * @param known the attributes by their path in small letters, such as `emails.value`
 * @throws 400 (invalidFilter) where it cannot be read, or asks for what cannot be filtered by
 */
export function filterSql(text: string, known: Readonly<Record<string, Filterable>>): Sql {
  if (text.length > MOST_CHARACTERS)
    throw refuse(`A filter has at most ${MOST_CHARACTERS.toLocaleString('en-GB')} characters.`);
  let parsed: Filter;
  try {
    parsed = parse(text);
  } catch (error) {
    throw refuse(`The filter cannot be read: ${error instanceof Error ? error.message : 'unknown'}`);
  }
  let parts = 0;
  const conditionOf = (filter: Filter, within: string): Sql => {
    if (++parts > MOST_PARTS) throw refuse(`A filter has at most ${MOST_PARTS} parts.`);
    switch (filter.op) {
      case 'and':
      case 'or': {
        const each = filter.filters.map((inner) => conditionOf(inner, within));
        return {
          sql: `(${each.map(({ sql }) => sql).join(filter.op === 'and' ? ' AND ' : ' OR ')})`,
          bindings: each.flatMap(({ bindings }) => bindings),
        };
      }
      case 'not': {
        const inner = conditionOf(filter.filter, within);
        return { ...inner, sql: `NOT (${inner.sql})` };
      }
      case '[]':
        return conditionOf(filter.valFilter, `${pathOf(filter.attrPath)}.`);
      default: {
        const path = `${within}${pathOf(filter.attrPath)}`;
        const attribute = known[path] ?? known[`${path}.value`];
        if (!attribute) throw refuse(`Nothing can be filtered by ${filter.attrPath}.`);
        return filter.op === 'pr'
          ? presence(attribute)
          : comparison(attribute, filter.op, filter.compValue, filter.attrPath);
      }
    }
  };
  return conditionOf(parsed, '');
}

/** A path in one form: without the schema before it, in small letters. */
const pathOf = (path: string): string =>
  path.replace(/^urn:ietf:params:scim:schemas:[\w:.]*:2\.0:(User|Group):/i, '').toLowerCase();

const presence = ({ sql, kind }: Filterable): Sql => ({
  sql: kind === 'text' || kind === 'exact text' ? `COALESCE(${sql}, '') <> ''` : `${sql} IS NOT NULL`,
  bindings: [],
});

type Operator = keyof typeof COMPARED | 'co' | 'sw' | 'ew';

function comparison(
  { sql, kind, among }: Filterable,
  op: Operator,
  value: boolean | null | number | string,
  path: string,
): Sql {
  if (value === null) {
    if (op !== 'eq' && op !== 'ne') throw refuse(`${path} is compared with null by eq or ne only.`);
    return { sql: `${sql} IS ${op === 'eq' ? '' : 'NOT '}NULL`, bindings: [] };
  }
  if (op === 'co' || op === 'sw' || op === 'ew') {
    if ((kind !== 'text' && kind !== 'exact text') || typeof value !== 'string')
      throw refuse(`${path} holds no text to look in.`);
    const like = likeText(value);
    return {
      sql: `COALESCE(${sql}, '') LIKE ?`,
      bindings: [`${op === 'sw' ? '' : '%'}${like}${op === 'ew' ? '' : '%'}`],
    };
  }
  const sign = COMPARED[op];
  const bound = boundValue(kind, value);
  if (bound === undefined || (kind === 'truth' && op !== 'eq' && op !== 'ne'))
    throw refuse(`${path} cannot be compared with ${JSON.stringify(value)} by ${op}.`);
  // What is empty is other than any value.
  if (op === 'ne') return { sql: `(${sql} IS NULL OR ${sql} <> ?)`, bindings: [bound] };
  if (op === 'eq' && among)
    return {
      sql: `(${among.sql} AND ${sql} = ?)`,
      bindings: Array.from({ length: among.times + 1 }, () => bound),
    };
  return { sql: `${sql} ${sign} ?`, bindings: [bound] };
}

function boundValue(kind: Filterable['kind'], value: boolean | number | string): string | number | undefined {
  switch (kind) {
    case 'truth':
      return typeof value === 'boolean' ? Number(value) : undefined;
    case 'id':
      return /^\d{1,15}$/.test(String(value)) ? Number(value) : -1;
    case 'instant': {
      const at = typeof value === 'string' ? Date.parse(value) : Number.NaN;
      return Number.isNaN(at) ? undefined : new Date(at).toISOString().replace('T', ' ').replace('Z', '');
    }
    default:
      return typeof value === 'string' ? value : undefined;
  }
}
