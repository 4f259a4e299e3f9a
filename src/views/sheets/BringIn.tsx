import { useState } from 'react';
import { plainHeading } from '../../core/imports/columns.ts';
import { isCalculated, MOST_BROUGHT, type SheetHead } from '../../core/sheets/sheet.ts';
import { count } from '../../core/words.ts';
import { exactWordsOf, sendFile } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useListReader } from './useListReader.ts';

/** Brings records in from a list (CSV or JSON): read in a worker, its columns matched, nothing sent while a cell is wrong. */
export function BringIn({ sheet, onClose }: { sheet: SheetHead; onClose: () => void }) {
  const readerOf = useListReader();
  const [list, setList] = useState<{ headings: string[]; count: number }>();
  const [columns, setColumns] = useState<string[]>([]);
  const written = sheet.columns.filter((column) => !isCalculated(column));
  const [checked, setChecked] = useState<{ wrong: number; told: string[] }>();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const match = async (chosen: string[]): Promise<void> => {
    setColumns(chosen);
    setChecked(
      await readerOf().match(chosen.map((id) => sheet.columns.find((column) => column.id === id) ?? null)),
    );
  };
  const choose = async (file: File): Promise<void> => {
    setError(undefined);
    const found = await readerOf().read(await file.arrayBuffer());
    if ('problem' in found) {
      setError(found.problem);
      return;
    }
    setList(found);
    await match(
      found.headings.map(
        (heading, at) =>
          written.find((column) => plainHeading(column.name) === plainHeading(heading))?.id ??
          (found.headings.every((each) => each === '') ? (written[at]?.id ?? '') : ''),
      ),
    );
  };
  const bringIn = async (): Promise<void> => {
    if (!list) return;
    setError(undefined);
    setBusy(true);
    try {
      const rows = (await readerOf().part(0, list.count)).filter((row) => Object.keys(row).length > 0);
      const lines = new Blob([rows.map((row) => JSON.stringify(row)).join('\n')]);
      const { records } = await sendFile<{ records: number }>(`/api/sheets/${sheet.id}/records/many`, lines);
      await refetch(`/api/sheets/${sheet.id}`);
      void done(`${count(records, 'record', 'records')} brought in.`);
      onClose();
    } catch (failure) {
      setError(exactWordsOf(failure));
    }
    setBusy(false);
  };
  const many = (list?.count ?? 0) > MOST_BROUGHT;
  const ready = list !== undefined && !many && checked?.wrong === 0 && columns.some((id) => id !== '');
  return (
    <Dialog
      open
      title="Bring in a list"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={!ready || busy}
            onClick={() => void bringIn()}
          >
            {busy ? 'One moment …' : `Bring in ${list ? count(list.count, 'record', 'records') : 'records'}`}
          </button>
        </>
      }
    >
      <div className="flex flex-col gap-3">
        <label className="btn btn-outline self-start">
          Choose a CSV or JSON file
          <input
            type="file"
            accept=".csv,.tsv,.txt,.json,text/csv,text/plain,application/json"
            className="sr-only"
            onChange={(event) => {
              const [file] = event.target.files ?? [];
              if (file) void choose(file);
            }}
          />
        </label>
        {list
          ? list.headings.map((heading, at) => (
              <label key={`${heading}-${at}`} className="flex flex-wrap items-center gap-2">
                <span className="w-48" dir="auto">
                  {heading === '' ? `Column ${at + 1}` : heading}
                </span>
                <select
                  className="select w-56"
                  value={columns[at] ?? ''}
                  onChange={(event) =>
                    void match(columns.map((each, i) => (i === at ? event.target.value : each)))
                  }
                >
                  <option value="">is not used</option>
                  {written.map((column) => (
                    <option key={column.id} value={column.id}>
                      {column.name}
                    </option>
                  ))}
                </select>
              </label>
            ))
          : null}
        {checked && checked.wrong > 0 ? (
          <Notice tone="error">
            {count(checked.wrong, 'cell cannot be read', 'cells cannot be read')}. Mend the file, or leave the
            column out.
            <ul>
              {checked.told.map((each) => (
                <li key={each}>{each}</li>
              ))}
            </ul>
          </Notice>
        ) : null}
        {many ? (
          <Notice tone="error">
            A list of at most {MOST_BROUGHT.toLocaleString('en-GB')} rows is brought in at once, all of it or
            nothing. Part it.
          </Notice>
        ) : null}
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </div>
    </Dialog>
  );
}
