import { useState } from 'react';
import { plainHeading } from '../../core/imports/columns.ts';
import { isCalculated, ROWS_AT_ONCE, type SheetHead } from '../../core/sheets/sheet.ts';
import { count } from '../../core/words.ts';
import { ask, wordsOf } from '../../ui/api.ts';
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
  const [sent, setSent] = useState<number | null>(null);
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
    try {
      for (let from = 0; from < list.count; from += ROWS_AT_ONCE) {
        setSent(from);
        const rows = (await readerOf().part(from, ROWS_AT_ONCE)).filter((row) => Object.keys(row).length > 0);
        if (rows.length > 0) await ask('POST', `/api/sheets/${sheet.id}/records/many`, { rows });
      }
      await refetch(`/api/sheets/${sheet.id}`);
      void done(`${count(list.count, 'record', 'records')} brought in.`);
      onClose();
    } catch (failure) {
      setError(
        `${wordsOf(failure)}${sent !== null && sent > 0 ? ` The first ${sent.toLocaleString('en-GB')} rows are in.` : ''}`,
      );
      setSent(null);
    }
  };
  const ready = list !== undefined && checked?.wrong === 0 && columns.some((id) => id !== '');
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
            disabled={!ready || sent !== null}
            onClick={() => void bringIn()}
          >
            {sent === null
              ? `Bring in ${list ? count(list.count, 'record', 'records') : 'records'}`
              : `${Math.round((sent / (list?.count ?? 1)) * 100)} % …`}
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
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </div>
    </Dialog>
  );
}
