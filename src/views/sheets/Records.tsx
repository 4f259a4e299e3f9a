import { Redo2, Undo2 } from 'lucide-react';
import { useState } from 'react';
import type { GridPart } from '../../core/sheets/grid.ts';
import type { SheetHead, SheetRecord } from '../../core/sheets/sheet.ts';
import { isAlways, type SheetOrder, type SheetView } from '../../core/sheets/view.ts';
import { count } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { lazily } from '../../ui/lazily.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith } from '../../ui/server.ts';
import { PlainRecords } from './grid/PlainRecords.tsx';
import { useEdits } from './grid/useEdits.ts';
import { useRows } from './grid/useRows.ts';

const RecordGrid = lazily(
  () => import('./grid/RecordGrid.tsx').then((module) => module.RecordGrid),
  PlainRecords,
);

/** The records a view shows, with what was done to them and what can be done with those that are chosen. */
export function Records({
  sheet,
  view,
  search,
  first,
  zone,
  onOrder,
  onOpen,
}: {
  sheet: SheetHead;
  view: SheetView;
  search: string;
  /** The head of the whole sheet, as the page came with it. */
  first: GridPart;
  zone: string;
  onOrder: (order: SheetOrder[]) => void;
  onOpen: (record: SheetRecord) => void;
}) {
  const list = useRows(sheet.id, view, search, first);
  const edits = useEdits(sheet.id, list.fetchAgain);
  const [chosen, setChosen] = useState<ReadonlyMap<number, SheetRecord>>(new Map());
  const file = (as: 'csv' | 'json'): string =>
    pathWith(`/api/sheets/${sheet.id}/file`, { view: JSON.stringify(view), q: search, as });
  const remove = async (): Promise<void> => {
    const records = [...chosen.values()];
    // At once, so that a second press finds none.
    setChosen(new Map());
    const kept = await edits.carryOut({ remove: records.map(({ id, cells }) => ({ id, cells })) });
    if (!kept) setChosen(chosen);
  };
  const columns = sheet.columns.filter(({ id }) => !view.hidden.includes(id));
  const narrowed = !isAlways(view.if) || search !== '';
  return (
    <>
      <div className="mb-2 flex min-h-9 flex-wrap items-center gap-x-4 gap-y-1 text-sm text-quiet">
        <span className="mr-auto" role="status">
          {list.fetching
            ? 'One moment …'
            : narrowed
              ? `${count(list.total, 'record', 'records')} of ${sheet.total.toLocaleString('en-GB')}`
              : count(list.total, 'record', 'records')}
        </span>
        {list.newer ? (
          <button type="button" className="btn btn-outline btn-sm" onClick={() => void list.fetchAgain()}>
            The sheet has changed: bring the list up to date
          </button>
        ) : null}
        {sheet.mayChange ? (
          <>
            <button
              type="button"
              className="btn btn-ghost btn-sm disabled:opacity-40"
              disabled={!edits.canUndo}
              onClick={() => void edits.undo()}
            >
              <Undo2 size={16} aria-hidden /> Undo
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-sm disabled:opacity-40"
              disabled={!edits.canRedo}
              onClick={() => void edits.redo()}
            >
              <Redo2 size={16} aria-hidden /> Redo
            </button>
          </>
        ) : null}
        <a className="link" href={file('csv')} download>
          as CSV
        </a>
        <a className="link" href={file('json')} download>
          as JSON
        </a>
      </div>
      {list.error ? <Notice tone="error">{wordsOf(list.error)}</Notice> : null}
      {edits.problems.length > 0 ? (
        <Notice tone="error">
          <ul>
            {edits.problems.map((problem) => (
              <li key={problem}>{problem}</li>
            ))}
          </ul>
          <button type="button" className="btn btn-outline btn-sm mt-2" onClick={edits.putBack}>
            {edits.refused ? 'Put back what was there' : 'All right'}
          </button>
        </Notice>
      ) : null}
      {chosen.size > 0 ? (
        <div
          role="group"
          aria-label="Those that are chosen"
          className="mb-2 flex flex-wrap items-center gap-3 border-l-4 border-primary bg-base-200 px-3 py-2"
        >
          <span className="mr-auto">{count(chosen.size, 'record is', 'records are')} chosen.</span>
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setChosen(new Map())}>
            Choose none
          </button>
          <button type="button" className="btn btn-outline btn-sm" onClick={() => void remove()}>
            Delete {chosen.size === 1 ? 'it' : 'them'}
          </button>
        </div>
      ) : null}
      {list.total === 0 && !list.fetching ? (
        <p className="text-quiet">{narrowed ? 'No record is like that.' : 'There are no records yet.'}</p>
      ) : (
        <RecordGrid
          sheet={sheet}
          columns={columns}
          order={view.order}
          list={list}
          rows={list.rows}
          edits={edits}
          zone={zone}
          chosen={chosen}
          onChosen={setChosen}
          onOrder={onOrder}
          onOpen={onOpen}
        />
      )}
    </>
  );
}
