/** What the database answered to one statement while the tests ran. */
export interface Answered {
  sql: string;
  /** How many rows there were of it. */
  rows: number;
  /** By name: of what kinds the values were, and whether it is a column of a table that may be null there. */
  columns: Record<string, { kinds: string[]; mayBeNull: boolean }>;
}

/** A statement whose lists of any length are written as one of one: they are one statement. */
export const withShortLists = (sql: string): string =>
  sql.replace(/\?(?:,\s*\?)+/g, '?').replace(/\(\?\)(?:,\s*\(\?\))+/g, '(?)');
