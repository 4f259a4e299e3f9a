import type { SheetColumn } from './sheet.ts';

/** Text in quotes, names in square brackets, ids of columns, and numbers: what is told apart before a formula is read. */
const PIECES =
  /"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'|\[([^\]]*)\]|(?<![\w.])c\d{1,4}(?!\w)|(?<![\w.])\d+(?![\w.])/g;

const pieces = (formula: string, change: (piece: string, name: string | undefined) => string): string =>
  formula.replace(PIECES, (piece: string, name: string | undefined) =>
    piece.startsWith('"') || piece.startsWith("'") ? piece : change(piece, name),
  );

/** A formula as it is kept, with its whole numbers as decimals: `c1 * 2` as `c1 * 2.0`, so that all numbers are of one kind. */
export const withDecimals = (formula: string): string =>
  pieces(formula, (piece) => (/^\d+$/.test(piece) ? `${piece}.0` : piece));

const mayStand = (name: string): boolean => !/[[\]]/.test(name);

/** A formula as it is read: the columns by their names in square brackets. */
export const withNames = (formula: string, columns: readonly Pick<SheetColumn, 'id' | 'name'>[]): string =>
  pieces(formula, (piece) => {
    const column = columns.find(({ id }) => id === piece);
    return column && column.name.trim() !== '' && mayStand(column.name) ? `[${column.name}]` : piece;
  });

/**
 * A formula as it is kept, by the ids of its columns. Names are found whatever their case.
 *
 * @returns the formula, or the name that no column has
 */
export function withIds(
  written: string,
  columns: readonly Pick<SheetColumn, 'id' | 'name'>[],
): { formula: string } | { missing: string } {
  let missing: string | undefined;
  const formula = pieces(written, (piece, name) => {
    if (name === undefined) return piece;
    const wanted = name.trim().toLowerCase();
    const column = columns.find((each) => each.name.trim().toLowerCase() === wanted);
    if (!column) missing ??= name.trim();
    return column?.id ?? piece;
  });
  return missing === undefined ? { formula: formula.trim() } : { missing };
}
