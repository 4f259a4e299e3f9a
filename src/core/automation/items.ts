import type { Each } from './automation.ts';
import type { Values } from './condition.ts';

/** A record, or the person it is about, with what its fields hold. */
export interface Row {
  id: number;
  values: Values;
}

/** One thing an automation speaks of: one row, several that are equal in a column, or all of them. */
export interface Item {
  /** Sets it apart from the others of its run. */
  key: string;
  rows: Row[];
  /** What its fields hold: of several rows, what they hold alike. */
  values: Values;
}

/** What several rows hold alike; what they differ in is empty. */
function alike(rows: readonly Row[]): Map<string, string> {
  const [first, ...rest] = rows;
  return new Map(
    [...(first?.values ?? [])].filter(([name, value]) =>
      rest.every((row) => (row.values.get(name) ?? '') === value),
    ),
  );
}

const folded = (text: string): string => text.trim().normalize('NFKC').toLowerCase();

/**
 * The rows that matched as what is spoken of, each row in exactly one item. Rows whose column is empty are an item of their
 * own. Nothing matched is no item: nothing is said.
 */
export function itemsOf(rows: readonly Row[], each: Each): Item[] {
  if (rows.length === 0) return [];
  switch (each.kind) {
    case 'each':
      return rows.map((row) => ({ key: `r${row.id}`, rows: [row], values: row.values }));
    case 'once':
      return [{ key: 'all', rows: [...rows], values: alike(rows) }];
    case 'group': {
      const groups = new Map<string, Row[]>();
      for (const row of rows) {
        const of = folded(row.values.get(each.field) ?? '');
        groups.set(of, [...(groups.get(of) ?? []), row]);
      }
      return [...groups].map(([of, among]) => {
        const values = alike(among);
        const [first] = among;
        // Spelt as in the first, where others differ by the size of letters only.
        if (first) values.set(each.field, first.values.get(each.field) ?? '');
        return { key: `g${of}`, rows: among, values };
      });
    }
  }
}
