import { useState } from 'react';
import { CELL_KINDS, type CellKind } from '../../core/sheets/cell.ts';
import { mayCalculate } from '../../core/sheets/calculated.ts';
import {
  freshColumn,
  isCalculated,
  type Cells,
  type SheetColumn,
  type SheetHead,
  type SheetShape,
} from '../../core/sheets/sheet.ts';
import { request, exactWordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { lazily } from '../../ui/lazily.tsx';
import { refetch } from '../../ui/server.ts';
import { FormShape } from './FormShape.tsx';

const FormulaField = lazily(() => import('./FormulaField.tsx').then((module) => module.FormulaField));

const EMPTY: SheetShape = {
  name: '',
  purpose: '',
  columns: [{ id: 'c1', name: '', kind: 'text', unit: '', choices: [] }],
  form: null,
};

/** A sheet's name, what it is for, its columns, and the form over it. */
export function SheetDialog({
  sheet,
  sample = null,
  zone,
  onClose,
}: {
  sheet: SheetHead | null;
  /** A record that what is calculated is shown on. */
  sample?: Cells | null;
  zone: string;
  onClose: () => void;
}) {
  const [shape, setShape] = useState<SheetShape>(
    sheet ? { name: sheet.name, purpose: sheet.purpose, columns: sheet.columns, form: sheet.form } : EMPTY,
  );
  const [problem, setProblem] = useState<string>();
  const set = (part: Partial<SheetShape>): void => setShape({ ...shape, ...part });
  const save = async (): Promise<void> => {
    setProblem(undefined);
    try {
      if (sheet) {
        await request('PUT', `/api/sheets/${sheet.id}`, { revision: sheet.revision, shape });
        await refetch('/api/sheets');
        onClose();
      } else {
        const { id } = await request('POST', '/api/sheets', shape);
        location.assign(`/sheets/${id}`);
      }
    } catch (failure) {
      setProblem(exactWordsOf(failure));
    }
  };
  return (
    <Dialog
      open
      wide
      title={sheet ? 'Change the sheet' : 'Make a sheet'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button type="button" className="btn btn-primary" onClick={() => void save()}>
            {sheet ? 'Change it' : 'Make it'}
          </button>
        </>
      }
    >
      <div className="flex flex-col gap-3">
        <label className="flex flex-col gap-1">
          Name
          <input
            className="input w-full"
            maxLength={80}
            dir="auto"
            value={shape.name}
            onChange={(event) => set({ name: event.target.value })}
          />
        </label>
        <label className="flex flex-col gap-1">
          What it is for
          <input
            className="input w-full"
            maxLength={300}
            dir="auto"
            value={shape.purpose}
            onChange={(event) => set({ purpose: event.target.value })}
          />
        </label>
        <Columns
          columns={shape.columns}
          last={sheet?.lastColumn ?? 0}
          sample={sample}
          zone={zone}
          onChange={(columns) => set({ columns })}
        />
        <FormShape form={shape.form} columns={shape.columns} onChange={(form) => set({ form })} />
        {problem === undefined ? null : <Notice tone="error">{problem}</Notice>}
      </div>
    </Dialog>
  );
}

/** A column of another kind. What can no longer be calculated is written by hand. */
const kindOf = (column: SheetColumn, chosen: string): Partial<SheetColumn> => {
  const kind = CELL_KINDS.find((each: CellKind) => each === chosen) ?? 'text';
  return { kind, formula: mayCalculate(kind) ? column.formula : undefined };
};

function Columns({
  columns,
  last,
  sample,
  zone,
  onChange,
}: {
  columns: SheetColumn[];
  /** The highest number a column of the sheet ever had. */
  last: number;
  sample: Cells | null;
  zone: string;
  onChange: (columns: SheetColumn[]) => void;
}) {
  const set = (at: number, part: Partial<SheetColumn>): void =>
    onChange(columns.map((column, i) => (i === at ? { ...column, ...part } : column)));
  return (
    <fieldset className="flex flex-col gap-2">
      <legend className="font-semibold">Columns</legend>
      {columns.map((column, at) => (
        <div key={column.id} className="flex flex-wrap items-end gap-2">
          <label className="flex grow flex-col gap-1 text-sm">
            Name
            <input
              className="input w-full"
              maxLength={60}
              dir="auto"
              value={column.name}
              onChange={(event) => set(at, { name: event.target.value })}
            />
          </label>
          <label className="flex flex-col gap-1 text-sm">
            Holds
            <select
              className="select w-32"
              value={column.kind}
              onChange={(event) => set(at, kindOf(column, event.target.value))}
            >
              {CELL_KINDS.map((kind) => (
                <option key={kind}>{kind}</option>
              ))}
            </select>
          </label>
          {column.kind === 'number' ? (
            <label className="flex flex-col gap-1 text-sm">
              Unit
              <input
                className="input w-20"
                maxLength={12}
                value={column.unit}
                onChange={(event) => set(at, { unit: event.target.value })}
              />
            </label>
          ) : null}
          {mayCalculate(column.kind) ? (
            <label className="flex flex-col gap-1 text-sm">
              Filled
              <select
                className="select w-32"
                value={isCalculated(column) ? 'calculated' : 'by hand'}
                onChange={(event) =>
                  set(at, {
                    formula: event.target.value === 'calculated' ? (column.formula ?? '') : undefined,
                  })
                }
              >
                <option>by hand</option>
                <option>calculated</option>
              </select>
            </label>
          ) : null}
          {column.kind === 'choice' ? (
            <label className="flex grow flex-col gap-1 text-sm">
              Choices, parted by commas
              <input
                className="input w-full"
                dir="auto"
                defaultValue={column.choices.join(', ')}
                onBlur={(event) =>
                  set(at, {
                    choices: event.target.value
                      .split(',')
                      .map((each) => each.trim())
                      .filter(Boolean),
                  })
                }
              />
            </label>
          ) : null}
          {columns.length > 1 ? (
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              aria-label={`Take out the column ${column.name}`}
              onClick={() => onChange(columns.filter((_, i) => i !== at))}
            >
              Take out
            </button>
          ) : null}
          {isCalculated(column) && mayCalculate(column.kind) ? (
            <FormulaField
              column={column}
              columns={columns}
              sample={sample}
              zone={zone}
              onChange={(formula) => set(at, { formula })}
            />
          ) : null}
        </div>
      ))}
      <div>
        <button
          type="button"
          className="btn btn-outline btn-sm"
          onClick={() =>
            onChange([
              ...columns,
              { id: freshColumn(columns, last), name: '', kind: 'text', unit: '', choices: [] },
            ])
          }
        >
          Add a column
        </button>
      </div>
    </fieldset>
  );
}
