import { useState } from 'react';
import {
  isCalculated,
  type Cells,
  type SheetColumn,
  type SheetHead,
  type SheetRecord,
} from '../../core/sheets/sheet.ts';
import { cellWords } from '../../core/sheets/cell.ts';
import { Moment } from '../../ui/Moment.tsx';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { CellField } from './fields.tsx';

/** A record to be added or changed, with what became of it. What was changed can be taken back. */
export function RecordDialog({
  sheet,
  record,
  zone,
  onClose,
}: {
  sheet: SheetHead;
  record: SheetRecord | null;
  zone: string;
  onClose: () => void;
}) {
  const [cells, setCells] = useState<Cells>(record?.cells ?? {});
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [error, setError] = useState<string>();
  // What comes from outside is changed there.
  const followed = record?.outside ? Object.keys(sheet.following?.columns ?? {}) : [];
  const read = (column: SheetColumn): boolean => followed.includes(column.id) || isCalculated(column);
  const theirs = record ? sheet.columns.filter(read) : [];
  const own = sheet.columns.filter((column) => !read(column));
  const path = `/api/sheets/${sheet.id}/records` as const;
  const run = async (work: () => Promise<unknown>): Promise<void> => {
    setError(undefined);
    setProblems({});
    try {
      await work();
      await refetch(`/api/sheets/${sheet.id}`);
      onClose();
    } catch (failure) {
      const errors = failure instanceof ApiProblem ? failure.errors : [];
      setProblems(Object.fromEntries(errors.map(({ field, detail }) => [field, detail])));
      if (errors.length === 0) setError(wordsOf(failure));
    }
  };
  const all = (of: Cells): Cells => Object.fromEntries(own.map(({ id }) => [id, of[id] ?? '']));
  const save = (): Promise<void> =>
    run(async () => {
      if (!record) {
        await request('POST', path, { cells });
        return;
      }
      await request('PUT', `${path}/${record.id}`, { cells: all(cells) });
      void done('The record is changed.', async () => {
        await request('PUT', `${path}/${record.id}`, { cells: all(record.cells) });
        await refetch(`/api/sheets/${sheet.id}`);
      });
    });
  const remove = (): Promise<void> =>
    run(async () => {
      if (!record) return;
      await request('DELETE', `${path}/${record.id}`);
      void done('The record is deleted.', async () => {
        await request('POST', path, { cells: record.cells });
        await refetch(`/api/sheets/${sheet.id}`);
      });
    });
  return (
    <Dialog
      open
      title={record ? 'Change the record' : 'Add a record'}
      onClose={onClose}
      actions={
        <>
          {record && !record.outside ? (
            <button type="button" className="btn btn-ghost mr-auto" onClick={() => void remove()}>
              Delete it
            </button>
          ) : null}
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button type="button" className="btn btn-primary" onClick={() => void save()}>
            {record ? 'Change it' : 'Add it'}
          </button>
        </>
      }
    >
      <div className="flex flex-col gap-3">
        {theirs.length > 0 ? (
          <dl className="grid grid-cols-[auto_1fr] gap-x-4">
            {theirs.map((column) => (
              <div key={column.id} className="contents">
                <dt className="text-quiet" dir="auto">
                  {column.name}
                </dt>
                <dd dir="auto">{cellWords(column, cells[column.id] ?? '', zone)}</dd>
              </div>
            ))}
          </dl>
        ) : null}
        {own.map((column) => (
          <CellField
            key={column.id}
            column={column}
            value={cells[column.id] ?? ''}
            problem={problems[column.id]}
            onChange={(value) => setCells({ ...cells, [column.id]: value })}
          />
        ))}
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        {record ? <Changes path={`${path}/${record.id}`} zone={zone} outside={record.outside} /> : null}
      </div>
    </Dialog>
  );
}

function Changes({
  path,
  zone,
  outside,
}: {
  path: `/api/sheets/${number}/records/${number}`;
  zone: string;
  outside: boolean;
}) {
  const { data } = useServer(path);
  if (!data || data.length === 0) return null;
  return (
    <section aria-label="What became of it" className="border-t border-base-300 pt-2 text-sm">
      {data.map((each) => (
        <p key={each.atMs} dir="auto">
          <span className="text-quiet">
            {each.by ?? (outside ? 'The source' : 'A form')}, <Moment at={each.atMs} zone={zone} />:
          </span>{' '}
          {each.changes
            .map(({ column, from, to }) => `${column} from ${from || 'nothing'} to ${to || 'nothing'}`)
            .join('; ')}
        </p>
      ))}
    </section>
  );
}
