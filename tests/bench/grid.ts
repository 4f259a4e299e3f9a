import { WHOLE, type SheetView } from '../../src/core/sheets/view.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { gridPart } from '../../src/server/sheets/grid.ts';
import { editRecords } from '../../src/server/sheets/editing.ts';
import { coordinator, timed } from './data.ts';
import { times } from './size.ts';

const at = (took: readonly number[], share: number): string => {
  const sorted = took.toSorted((a, b) => a - b);
  return `${(sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0).toFixed(0)} ms`;
};

/** What a reader of a large sheet waits for: its first rows, rows further on, another order, a condition. */
export async function grid(db: Database, sheetId: number, records: number): Promise<void> {
  const read = (view: Partial<SheetView>, from = 0, asOf = '', search = '') =>
    gridPart(db, coordinator, sheetId, { view: { ...WHOLE, ...view }, search, zone: 'UTC' }, { from, asOf });
  const over: SheetView['if'] = {
    kind: 'test',
    field: 'record.c2',
    test: 'is over',
    against: { kind: 'value', value: '45' },
  };
  const first: number[] = [];
  for (let round = 0; round < times(40); round++) first.push(await timed(() => read({})));
  console.log(
    `the first rows of ${records} records: median ${at(first, 0.5)}, 95th ${at(first, 0.95)}; aim 100 ms at the 95th`,
  );
  const { stamp, total } = await read({});
  const whole = await timed(() => read({}, 100, stamp));
  const further: number[] = [];
  for (let round = 0; round < times(40); round++)
    further.push(await timed(() => read({}, Math.floor(((round * 37) % 100) * (total / 100)), stamp)));
  console.log(
    `the second rows, with the order of all of them: ${whole.toFixed(0)} ms; rows anywhere after that: median ${at(further, 0.5)}, 95th ${at(further, 0.95)}`,
  );
  const looks: [string, Partial<SheetView>, string][] = [
    ['ordered by a number', { order: [{ column: 'c2', turned: true }] }, ''],
    ['ordered by a text', { order: [{ column: 'c1', turned: false }] }, ''],
    ['those of which a number is over another', { if: over }, ''],
    ['what is found by its letters', {}, 'vault 77'],
  ];
  for (const [words, view, search] of looks) {
    const anew: number[] = [];
    for (let round = 0; round < times(3); round++) {
      // A change makes every order be made anew.
      const [record] = (await read({})).records;
      if (record)
        await editRecords(db, coordinator, sheetId, {
          change: [{ record: record.id, cells: { c3: String(61 + round) } }],
          add: [],
          remove: [],
        });
      anew.push(await timed(() => read(view, 0, '', search)));
    }
    const kept = await timed(() => read(view, 0, '', search));
    console.log(
      `the first rows ${words}: median ${at(anew, 0.5)} after a change; ${kept.toFixed(0)} ms again`,
    );
  }
}
