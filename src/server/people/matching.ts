import type { Sql } from '../audience/sql.ts';

/** Most words of a name that are looked for. */
const MOST_WORDS = 6;

/** Letters as they stand in a LIKE, so that % and _ mean themselves. */
export const likeText = (letters: string): string => letters.replace(/[\\%_]/g, (mark) => `\\${mark}`);

/** A condition over `people p`: the name holds each of some words, in any order. Without words everybody's does. */
export function nameHolds(letters: string): Sql {
  const words = letters.trim().split(/\s+/).filter(Boolean).slice(0, MOST_WORDS);
  if (words.length === 0) return { sql: 'TRUE', bindings: [] };
  return {
    sql: words.map(() => 'p.name LIKE ?').join(' AND '),
    bindings: words.map((word) => `%${likeText(word)}%`),
  };
}
