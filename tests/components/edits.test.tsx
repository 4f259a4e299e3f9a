import { act, renderHook, waitFor } from '@testing-library/react';
import { beforeEach, describe, expect, it } from 'vitest';
import type { CellsChange } from '../../src/core/sheets/pasting.ts';
import type { Cells, SheetColumn, SheetRecord } from '../../src/core/sheets/sheet.ts';
import { useEdits } from '../../src/views/sheets/grid/useEdits.ts';
import { answerWith, sent } from './page.ts';

interface Edit {
  change: CellsChange[];
  add: Cells[];
  remove: number[];
}
const column = (id: string, kind: SheetColumn['kind']): SheetColumn => ({
  id,
  name: id === 'c1' ? 'Item' : 'Days',
  kind,
  unit: '',
  choices: [],
});
const item = column('c1', 'text');
const days = column('c2', 'number');
const record = (id: number, cells: Cells): SheetRecord => ({
  id,
  cells,
  changedMs: 0,
  changedBy: null,
  outside: false,
});
const edits = (): Edit[] => sent.filter(({ path }) => path.endsWith('/edit')).map(({ body }) => body as Edit);

let read = 0;
const open = () =>
  renderHook(() =>
    useEdits(5, () => {
      read++;
      return Promise.resolve();
    }),
  );

beforeEach(() => {
  read = 0;
  answerWith(({ path, body }) =>
    path.endsWith('/edit') ? { body: { added: (body as Edit).add.map((_, at) => 100 + at) } } : { body: {} },
  );
});

describe('changes in the grid', () => {
  it('are kept at once, and taken back and done again one by one, the last first', async () => {
    const { result } = open();
    await act(() => result.current.write(record(1, { c1: 'Rope' }), item, 'Line'));
    await act(() => result.current.write(record(2, { c1: 'Oar' }), item, 'Paddle'));
    await act(() => result.current.carryOut({ add: [{ c1: 'Buoy' }] }));
    expect(edits().map(({ change, add }) => [change[0]?.cells ?? null, add.length])).toEqual([
      [{ c1: 'Line' }, 0],
      [{ c1: 'Paddle' }, 0],
      [null, 1],
    ]);
    // Only what adds or takes away has the records read anew.
    expect(read).toBe(1);
    await act(() => result.current.undo());
    expect(edits().at(-1)).toEqual({ change: [], add: [], remove: [100] });
    await act(() => result.current.undo());
    expect(edits().at(-1)!.change).toEqual([{ record: 2, cells: { c1: 'Oar' }, was: { c1: 'Paddle' } }]);
    expect([result.current.canUndo, result.current.canRedo]).toEqual([true, true]);
    await act(() => result.current.redo());
    expect(edits().at(-1)!.change).toEqual([{ record: 2, cells: { c1: 'Paddle' }, was: { c1: 'Oar' } }]);
    // Something new ends what could be done again.
    await act(() => result.current.write(record(1, { c1: 'Line' }), item, 'Cord'));
    expect([result.current.canUndo, result.current.canRedo]).toEqual([true, false]);
  });

  it('wait for one another, show what is on its way, and what was written into it since', async () => {
    const waiting: (() => void)[] = [];
    answerWith(({ path }) =>
      path.endsWith('/edit')
        ? new Promise((resolve) => waiting.push(() => resolve({ body: { added: [] } })))
        : undefined,
    );
    const { result } = open();
    let ends: Promise<unknown> = Promise.resolve();
    act(() => {
      const first = result.current.write(record(1, { c1: 'Rope' }), item, 'Line');
      const second = result.current.write(record(1, { c1: 'Rope' }), item, 'Cord');
      ends = Promise.all([first, second]);
    });
    await waitFor(() => expect(waiting).toHaveLength(1));
    expect(result.current.written.get(1)).toEqual({ c1: 'Cord' });
    waiting[0]!();
    await waitFor(() => expect(waiting).toHaveLength(2));
    // The first is kept; what was written since is shown still.
    expect(result.current.written.get(1)).toEqual({ c1: 'Cord' });
    waiting[1]!();
    await act(async () => {
      await ends;
    });
    await waitFor(() => expect(result.current.written.size).toBe(0));
  });

  it('that cannot be read, or are refused, stay in their cell with why, until they are put back', async () => {
    const { result } = open();
    await act(() => result.current.write(record(3, { c2: '4' }), days, 'four'));
    expect(edits()).toEqual([]);
    expect(result.current.refused).toEqual({ record: 3, column: 'c2', text: 'four' });
    expect(result.current.problems[0]).toMatch(/^Days: /);
    act(() => result.current.putBack());
    expect([result.current.refused, result.current.problems]).toEqual([null, []]);
    answerWith(({ path }) =>
      path.endsWith('/edit')
        ? { status: 409, body: { detail: 'No.', errors: [{ field: 'c2', detail: 'Wren changed it.' }] } }
        : undefined,
    );
    await act(() => result.current.write(record(3, { c2: '4' }), days, '6'));
    expect(result.current.refused).toEqual({ record: 3, column: 'c2', text: '6' });
    expect(result.current.problems).toEqual(['Wren changed it.']);
    expect(result.current.canUndo).toBe(false);
  });

  it('that somebody else changed since cannot be taken back; where the network is down they can be later', async () => {
    const { result } = open();
    await act(() => result.current.write(record(1, { c1: 'Rope' }), item, 'Line'));
    let status = 503;
    answerWith(({ path }) =>
      path.endsWith('/edit') ? { status, body: { detail: 'No.', errors: [] } } : undefined,
    );
    await act(() => result.current.undo());
    expect(result.current.canUndo).toBe(true);
    status = 409;
    await act(() => result.current.undo());
    expect(result.current.canUndo).toBe(false);
    expect(result.current.canRedo).toBe(false);
  });
});
