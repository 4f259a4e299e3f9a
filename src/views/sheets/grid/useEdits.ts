import { useCallback, useRef, useState } from 'react';
import { readCell } from '../../../core/sheets/cell.ts';
import { changeOf, opposite, type CellsChange } from '../../../core/sheets/pasting.ts';
import type { Cells, SheetColumn, SheetRecord } from '../../../core/sheets/sheet.ts';
import { count } from '../../../core/words.ts';
import { ApiProblem, ask, wordsOf } from '../../../ui/api.ts';
import { refetch } from '../../../ui/server.ts';
import { done } from '../../../ui/toast.ts';

/** What was done in one go, and can be taken back. */
interface Deed {
  change: CellsChange[];
  add: Cells[];
  remove: { id: number; cells: Cells }[];
}
const NOTHING: Deed = { change: [], add: [], remove: [] };

/** A cell that could not be kept: what was written stays in it until it is mended or put back. */
export interface Refused {
  record: number;
  column: string;
  text: string;
}

const wordsFor = ({ change, add, remove }: Deed): string =>
  [
    ...(change.length > 0 ? [`${count(change.length, 'record', 'records')} changed`] : []),
    ...(add.length > 0 ? [`${count(add.length, 'record', 'records')} added`] : []),
    ...(remove.length > 0 ? [`${count(remove.length, 'record', 'records')} deleted`] : []),
  ].join(', ');

/** Changes of a sheet's records as they are made in the grid: kept at once, all of it or nothing, and taken back one by one. */
export function useEdits(sheetId: number, anew: () => Promise<void>) {
  const [written, setWritten] = useState<ReadonlyMap<number, Cells>>(new Map());
  const [refused, setRefused] = useState<Refused | null>(null);
  const [problems, setProblems] = useState<readonly string[]>([]);
  const past = useRef<Deed[]>([]);
  const future = useRef<Deed[]>([]);
  const [stacks, setStacks] = useState({ undo: 0, redo: 0 });
  const last = useRef<Promise<unknown>>(Promise.resolve());
  /** One after another: what is taken back is what was done last, also where that is still under way. */
  const inTurn = useCallback(<T>(work: () => Promise<T>): Promise<T> => {
    const through = last.current.then(work);
    last.current = through.catch(() => undefined);
    return through;
  }, []);
  const counted = (): void => setStacks({ undo: past.current.length, redo: future.current.length });

  /** Shows what is on its way to be kept. */
  const show = (deed: Deed): void =>
    setWritten((now) => {
      const next = new Map(now);
      for (const { record, cells } of deed.change) next.set(record, { ...next.get(record), ...cells });
      return next;
    });

  /** Carries a deed out; gives what takes it back. */
  const run = useCallback(
    async (deed: Deed): Promise<Deed> => {
      try {
        const { added } = await ask<{ added: number[] }>('POST', `/api/sheets/${sheetId}/edit`, {
          change: deed.change,
          add: deed.add,
          remove: deed.remove.map(({ id }) => id),
        });
        setProblems([]);
        if (deed.add.length > 0 || deed.remove.length > 0) await anew();
        await refetch(`/api/sheets/${sheetId}/grid`);
        return {
          change: deed.change.map(opposite),
          add: deed.remove.map(({ cells }) => cells),
          remove: added.map((id, at) => ({ id, cells: deed.add[at] ?? {} })),
        };
      } finally {
        setWritten((now) => {
          const next = new Map(now);
          for (const { record, cells } of deed.change) {
            // What was written into it since is shown still.
            const left = Object.entries(next.get(record) ?? {}).filter(([id, value]) => cells[id] !== value);
            if (left.length > 0) next.set(record, Object.fromEntries(left));
            else next.delete(record);
          }
          return next;
        });
      }
    },
    [sheetId, anew],
  );

  const told = (error: unknown): void => {
    const details = error instanceof ApiProblem ? error.errors.map(({ detail }) => detail) : [];
    setProblems(details.length > 0 ? details : [wordsOf(error)]);
  };

  const step = useCallback(
    (from: 'past' | 'future'): Promise<void> =>
      inTurn(async () => {
        const [stack, other] = from === 'past' ? [past, future] : [future, past];
        const deed = stack.current.at(-1);
        if (!deed) return;
        stack.current = stack.current.slice(0, -1);
        show(deed);
        try {
          other.current = [...other.current, await run(deed)];
        } catch (error) {
          // What somebody else changed since cannot be taken back; whatever else kept it from being done may be over soon.
          if (!(error instanceof ApiProblem && error.status === 409))
            stack.current = [...stack.current, deed];
          told(error);
        }
        counted();
      }),
    [run, inTurn],
  );
  const undo = useCallback(() => step('past'), [step]);
  const redo = useCallback(() => step('future'), [step]);

  const carryOut = useCallback(
    (part: Partial<Deed>): Promise<boolean> => {
      const deed = { ...NOTHING, ...part };
      show(deed);
      return inTurn(async () => {
        try {
          const back = await run(deed);
          past.current = [...past.current.slice(-99), back];
          future.current = [];
          counted();
          setRefused(null);
          if (deed.change.length !== 1 || deed.add.length + deed.remove.length > 0)
            void done(`${wordsFor(deed)}.`, () => {
              if (past.current.at(-1) !== back)
                return Promise.reject(new Error('Something else was done since. Take that back first.'));
              return undo();
            });
          return true;
        } catch (error) {
          told(error);
          const [only] = deed.change;
          const [column] = Object.keys(only?.cells ?? {});
          if (only && column !== undefined && deed.change.length === 1)
            setRefused({ record: only.record, column, text: only.cells[column] ?? '' });
          return false;
        }
      });
    },
    [run, undo, inTurn],
  );

  /** Writes into one cell. */
  const write = useCallback(
    async (record: SheetRecord, column: SheetColumn, text: string): Promise<void> => {
      const read = readCell(column, text);
      if ('problem' in read) {
        setRefused({ record: record.id, column: column.id, text });
        setProblems([`${column.name}: ${read.problem}`]);
        return;
      }
      if (read.value === (record.cells[column.id] ?? '')) {
        setRefused(null);
        setProblems([]);
        return;
      }
      await carryOut({ change: [changeOf(record, { [column.id]: read.value })] });
    },
    [carryOut],
  );

  return {
    written,
    refused,
    problems,
    canUndo: stacks.undo > 0,
    canRedo: stacks.redo > 0,
    write,
    carryOut,
    undo,
    redo,
    tell: (details: readonly string[]) => setProblems(details),
    putBack: () => {
      setRefused(null);
      setProblems([]);
    },
  };
}
