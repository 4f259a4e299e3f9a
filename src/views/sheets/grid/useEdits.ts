import { useCallback, useRef, useState } from 'react';
import { readCell } from '../../../core/sheets/cell.ts';
import { changeOf, opposite, type CellsChange } from '../../../core/sheets/pasting.ts';
import type { Cells, SheetColumn, SheetRecord } from '../../../core/sheets/sheet.ts';
import { count } from '../../../core/words.ts';
import { ApiProblem, request, wordsOf } from '../../../ui/api.ts';
import { refetch } from '../../../ui/server.ts';
import { done } from '../../../ui/toast.ts';

/** What was done in one go, and can be taken back. */
interface Deed {
  change: CellsChange[];
  add: Cells[];
  remove: { id: number; cells: Cells }[];
}
/** So much of what was done can be taken back. */
const MOST_TAKEN_BACK = 100;
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

/** With what is written on its way: shown until it is kept, and over what is kept. */
const withWritten = (now: ReadonlyMap<number, Cells>, { change }: Deed): ReadonlyMap<number, Cells> => {
  const next = new Map(now);
  for (const { record, cells } of change) next.set(record, { ...next.get(record), ...cells });
  return next;
};

/** Without what has been kept, or refused; what was written into it since is shown still. */
const withoutWritten = (now: ReadonlyMap<number, Cells>, { change }: Deed): ReadonlyMap<number, Cells> => {
  const next = new Map(now);
  for (const { record, cells } of change) {
    const left = Object.entries(next.get(record) ?? {}).filter(([id, value]) => cells[id] !== value);
    if (left.length > 0) next.set(record, Object.fromEntries(left));
    else next.delete(record);
  }
  return next;
};

/** One after another: what is taken back is what was done last, also where that is still under way. */
function useInTurn(): <T>(work: () => Promise<T>) => Promise<T> {
  const last = useRef<Promise<unknown>>(Promise.resolve());
  return useCallback(<T>(work: () => Promise<T>): Promise<T> => {
    const through = last.current.then(work);
    last.current = through.catch(() => undefined);
    return through;
  }, []);
}

/** Carries a deed out in a sheet; gives what takes it back. */
async function edit(sheetId: number, deed: Deed, fetchAgain: () => Promise<void>): Promise<Deed> {
  const { added } = await request('POST', `/api/sheets/${sheetId}/edit`, {
    change: deed.change,
    add: deed.add,
    remove: deed.remove.map(({ id }) => id),
  });
  if (deed.add.length > 0 || deed.remove.length > 0) await fetchAgain();
  await refetch(`/api/sheets/${sheetId}/grid`);
  return {
    change: deed.change.map(opposite),
    add: deed.remove.map(({ cells }) => cells),
    remove: added.map((id, at) => ({ id, cells: deed.add[at] ?? {} })),
  };
}

const detailsOf = (error: unknown): string[] => {
  const details = error instanceof ApiProblem ? error.errors.map(({ detail }) => detail) : [];
  return details.length > 0 ? details : [wordsOf(error)];
};

/** The one cell that a deed wrote into, where it was one. */
function onlyCell({ change: [only, ...others] }: Deed): Refused | null {
  const [column] = Object.keys(only?.cells ?? {});
  if (!only || column === undefined || others.length > 0) return null;
  return { record: only.record, column, text: only.cells[column] ?? '' };
}

/** What was done in the grid, to be taken back and done again, one by one. */
function useDeeds(
  sheetId: number,
  fetchAgain: () => Promise<void>,
  told: (details: readonly string[]) => void,
) {
  const [written, setWritten] = useState<ReadonlyMap<number, Cells>>(new Map());
  const past = useRef<Deed[]>([]);
  const future = useRef<Deed[]>([]);
  const [stacks, setStacks] = useState({ undo: 0, redo: 0 });
  const inTurn = useInTurn();

  /** Carries a deed out, and shows meanwhile what is on its way to be kept. */
  const run = useCallback(
    async (deed: Deed): Promise<Deed> => {
      try {
        const back = await edit(sheetId, deed, fetchAgain);
        told([]);
        return back;
      } finally {
        setWritten((now) => withoutWritten(now, deed));
      }
    },
    [sheetId, fetchAgain, told],
  );
  const counted = (): void => setStacks({ undo: past.current.length, redo: future.current.length });

  const step = useCallback(
    (from: 'past' | 'future'): Promise<void> =>
      inTurn(async () => {
        const [stack, other] = from === 'past' ? [past, future] : [future, past];
        const deed = stack.current.at(-1);
        if (!deed) return;
        stack.current = stack.current.slice(0, -1);
        setWritten((now) => withWritten(now, deed));
        try {
          other.current = [...other.current, await run(deed)];
        } catch (error) {
          // What somebody else changed since cannot be taken back; whatever else kept it from being done may be over soon.
          if (!(error instanceof ApiProblem && error.status === 409))
            stack.current = [...stack.current, deed];
          told(detailsOf(error));
        }
        counted();
      }),
    [run, inTurn, told],
  );
  const undo = useCallback(() => step('past'), [step]);
  const redo = useCallback(() => step('future'), [step]);

  /** Does something new; gives what takes it back. */
  const act = useCallback(
    (deed: Deed): Promise<Deed> => {
      setWritten((now) => withWritten(now, deed));
      return inTurn(async () => {
        const back = await run(deed);
        past.current = [...past.current.slice(1 - MOST_TAKEN_BACK), back];
        future.current = [];
        counted();
        return back;
      });
    },
    [run, inTurn],
  );
  const isLast = useCallback((back: Deed): boolean => past.current.at(-1) === back, []);
  return { written, stacks, undo, redo, act, isLast };
}

/** Changes of a sheet's records as they are made in the grid: kept at once, all of it or nothing, and taken back one by one. */
export function useEdits(sheetId: number, fetchAgain: () => Promise<void>) {
  const [refused, setRefused] = useState<Refused | null>(null);
  const [problems, setProblems] = useState<readonly string[]>([]);
  const { written, stacks, undo, redo, act, isLast } = useDeeds(sheetId, fetchAgain, setProblems);

  const carryOut = useCallback(
    async (part: Partial<Deed>): Promise<boolean> => {
      const deed = { ...NOTHING, ...part };
      try {
        const back = await act(deed);
        setRefused(null);
        if (onlyCell(deed) === null || deed.add.length + deed.remove.length > 0)
          void done(`${wordsFor(deed)}.`, () =>
            isLast(back)
              ? undo()
              : Promise.reject(new Error('Something else was done since. Take that back first.')),
          );
        return true;
      } catch (error) {
        setProblems(detailsOf(error));
        const cell = onlyCell(deed);
        if (cell) setRefused(cell);
        return false;
      }
    },
    [act, isLast, undo],
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
    tell: setProblems,
    putBack: () => {
      setRefused(null);
      setProblems([]);
    },
  };
}
