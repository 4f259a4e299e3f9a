import { act, renderHook, waitFor } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import type { GridPart } from '../../src/core/sheets/grid.ts';
import type { SheetColumn, SheetRecord } from '../../src/core/sheets/sheet.ts';
import { WHOLE } from '../../src/core/sheets/view.ts';
import { useEdits } from '../../src/views/sheets/grid/useEdits.ts';
import { useRows } from '../../src/views/sheets/grid/useRows.ts';
import { answerWith, sent, tellLive } from './page.ts';

const GRAMS: SheetColumn = { id: 'c2', name: 'Grams', kind: 'number', unit: 'g', choices: [] };
const record = (id: number, cells: Record<string, string>): SheetRecord => ({
  id,
  cells,
  changedMs: 0,
  changedBy: null,
  outside: false,
});
/** A server that keeps one record, and holds each edit up until it is let through. */
function server(begun: Record<string, string>) {
  const cells = { ...begun };
  const waiting: (() => void)[] = [];
  const state = { down: false };
  answerWith(async ({ path, body }) => {
    if (path !== '/api/sheets/1/edit') return { body: {} };
    await new Promise<void>((resolve) => waiting.push(resolve));
    if (state.down) throw new TypeError('fetch failed');
    const [change] = (body as { change: { cells: Record<string, string>; was: Record<string, string> }[] })
      .change;
    for (const [id, was] of Object.entries(change!.was))
      if ((cells[id] ?? '') !== was)
        return {
          status: 409,
          body: {
            title: 'x',
            status: 409,
            detail: 'x',
            errors: [{ field: 'change.0.c2', detail: 'Changed by now' }],
          },
        };
    Object.assign(cells, change!.cells);
    return { body: { added: [] } };
  });
  return {
    cells,
    state,
    let: async () => {
      await waitFor(() => expect(waiting.length).toBeGreaterThan(0));
      await act(async () => {
        waiting.shift()!();
        await Promise.resolve();
      });
    },
  };
}
const edits = () => renderHook(() => useEdits(1, () => Promise.resolve()));

describe('edits of a grid', () => {
  it('go one after another: what is taken back is what was done last, also where that is still under way', async () => {
    const { cells, ...there } = server({ c2: '1' });
    const { result } = edits();
    act(() => void result.current.write(record(7, { c2: '1' }), GRAMS, '2'));
    act(() => void result.current.write(record(7, { c2: '2' }), GRAMS, '3 g'));
    act(() => void result.current.undo());
    // What is on its way is shown, the last of it.
    expect(result.current.written.get(7)).toEqual({ c2: '3' });
    await there.let();
    await there.let();
    await waitFor(() => expect(cells.c2).toBe('3'));
    await there.let();
    await waitFor(() => expect(cells.c2).toBe('2'));
    await waitFor(() => expect(result.current.written.size).toBe(0));
    expect([result.current.canUndo, result.current.canRedo]).toEqual([true, true]);
    expect(sent.filter(({ path }) => path.endsWith('/edit'))).toHaveLength(3);
  });

  it('leave what was written where it cannot be kept, and can be taken back later where the network was away', async () => {
    const { cells, state, ...there } = server({ c2: '1' });
    const { result } = edits();
    act(() => void result.current.write(record(7, { c2: '1' }), GRAMS, 'much'));
    expect(result.current.refused).toEqual({ record: 7, column: 'c2', text: 'much' });
    expect(result.current.problems).toEqual(['Grams: “much” is no number. Write one such as 12.5.']);
    expect(sent).toEqual([]);
    act(() => void result.current.write(record(7, { c2: '1' }), GRAMS, '5'));
    await there.let();
    await waitFor(() => expect(result.current.refused).toBeNull());
    // Somebody else's value is not written over, and one's own text stays in sight.
    cells.c2 = '9';
    act(() => void result.current.write(record(7, { c2: '5' }), GRAMS, '6'));
    await there.let();
    await waitFor(() => expect(result.current.problems).toEqual(['Changed by now']));
    expect([cells.c2, result.current.refused?.text]).toEqual(['9', '6']);
    cells.c2 = '5';
    state.down = true;
    act(() => void result.current.undo());
    await there.let();
    await waitFor(() => expect(result.current.problems[0]).not.toBe('Changed by now'));
    expect(result.current.canUndo).toBe(true);
    state.down = false;
    act(() => void result.current.undo());
    await there.let();
    await waitFor(() => expect(cells.c2).toBe('1'));
  });
});

describe('the rows of a grid', () => {
  const head = (stamp: string, ids: number[], newer = false): GridPart => ({
    from: 0,
    stamp,
    newer,
    total: ids.length,
    records: ids.map((id) => record(id, { c1: `of ${id}` })),
  });

  it('stay in their order when the sheet changes, and are read anew where that order is lost', async () => {
    let answer = (asOf: string | null): GridPart => head(asOf ?? '1', [2, 1], asOf !== null);
    answerWith(({ path }) => ({ body: answer(new URL(path, 'http://x').searchParams.get('asOf')) }));
    const { result } = renderHook(() => useRows(3, WHOLE, '', head('1', [2, 1])));
    const ids = () => result.current.rows.map((row) => row.record?.id ?? null);
    expect([ids(), result.current.newer]).toEqual([[2, 1], false]);
    await waitFor(() => expect(tellLive('sheet:3')).toBe(true));
    await waitFor(() => expect(result.current.newer).toBe(true));
    expect(ids()).toEqual([2, 1]);
    // The order that was asked for is not known there any more: what comes is of another.
    answer = () => head('2', [9, 2, 1]);
    await waitFor(() => expect(tellLive('sheet:3')).toBe(true));
    await waitFor(() => expect(ids()).toEqual([9, 2, 1]));
    expect([result.current.asOf, result.current.newer]).toEqual(['2', false]);
    // What would be pasted over is never of an order that is not the one in sight.
    answer = () => head('3', [1, 2, 9]);
    await act(async () => {
      await expect(result.current.recordsFrom(0, 2)).rejects.toThrow(/changed meanwhile/);
    });
    await waitFor(() => expect(ids()).toEqual([1, 2, 9]));
  });
});
