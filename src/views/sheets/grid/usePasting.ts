import { pasted, pastedCells } from '../../../core/sheets/pasting.ts';
import type { SheetColumn, SheetHead, SheetRecord } from '../../../core/sheets/sheet.ts';
import { MOST_AT_ONCE } from '../../../core/sheets/viewSchema.ts';
import { wordsOf } from '../../../ui/api.ts';
import type { useEdits } from './useEdits.ts';
import type { useRows } from './useRows.ts';

/** Pastes text from a spreadsheet from a cell on: all of it, or nothing where something of it is wrong. */
export function usePasting(
  { following }: SheetHead,
  columns: readonly SheetColumn[],
  list: ReturnType<typeof useRows>,
  edits: ReturnType<typeof useEdits>,
): (text: string, from: number, columnId: string) => Promise<void> {
  return async (text, from, columnId) => {
    const lines = pastedCells(text);
    if (lines.length > MOST_AT_ONCE) {
      edits.tell([
        `${lines.length.toLocaleString('en-GB')} rows are more than the ${MOST_AT_ONCE.toLocaleString('en-GB')} that are pasted at once. Save them as a CSV file, and bring in that.`,
      ]);
      return;
    }
    const begin = columns.findIndex(({ id }) => id === columnId);
    let records: (SheetRecord | null)[];
    try {
      records = await list.recordsFrom(from, from + lines.length);
    } catch (error) {
      edits.tell([wordsOf(error)]);
      return;
    }
    const outside = new Set(records.flatMap((record) => (record?.outside ? [record.id] : [])));
    const result = pasted(
      lines,
      columns.slice(begin),
      records,
      (record, column) => !outside.has(record) || !Object.hasOwn(following?.columns ?? {}, column),
    );
    if ('problems' in result) {
      const told = result.problems
        .slice(0, 8)
        .map(({ row, detail }) => `Row ${row} of what was pasted: ${detail}`);
      const more = result.problems.length - told.length;
      edits.tell([...told, ...(more > 0 ? [`And ${more} more.`] : []), 'Nothing was pasted.']);
    } else if (result.change.length + result.add.length > 0)
      await edits.carryOut({ change: result.change, add: result.add });
  };
}
