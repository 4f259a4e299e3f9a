import type { NamedValue } from '../core/automation/source.ts';
import { CELL_KINDS } from '../core/sheets/cell.ts';

/** Values that are taken out of JSON from outside, each by its pointer, under a name. */
export function NamedValues({
  legend,
  least,
  fields,
  onChange,
}: {
  legend: string;
  /** As many at least stay. */
  least: number;
  fields: readonly NamedValue[];
  onChange: (fields: NamedValue[]) => void;
}) {
  const set = (at: number, part: Partial<NamedValue>): void =>
    onChange(fields.map((field, i) => (i === at ? { ...field, ...part } : field)));
  return (
    <fieldset className="flex flex-col gap-2">
      <legend className="font-semibold">{legend}</legend>
      {fields.map((field, at) => (
        <div key={at} className="flex flex-wrap items-end gap-2">
          <label className="flex flex-col gap-1 text-sm">
            Called
            <input
              className="input w-28"
              maxLength={40}
              value={field.name}
              onChange={(event) => set(at, { name: event.target.value })}
            />
          </label>
          <label className="flex grow flex-col gap-1 text-sm">
            Where it stands (JSON pointer)
            <input
              className="input w-full font-mono"
              maxLength={200}
              value={field.pointer}
              onChange={(event) => set(at, { pointer: event.target.value })}
            />
          </label>
          <label className="flex flex-col gap-1 text-sm">
            Holds
            <select
              className="select w-28"
              value={field.kind}
              onChange={(event) =>
                set(at, { kind: CELL_KINDS.find((each) => each === event.target.value) ?? 'text' })
              }
            >
              {CELL_KINDS.filter((kind) => kind !== 'choice').map((kind) => (
                <option key={kind}>{kind}</option>
              ))}
            </select>
          </label>
          <label className="flex flex-col gap-1 text-sm">
            Unit
            <input
              className="input w-16"
              maxLength={12}
              value={field.unit}
              onChange={(event) => set(at, { unit: event.target.value })}
            />
          </label>
          {fields.length > least ? (
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              onClick={() => onChange(fields.filter((_, i) => i !== at))}
            >
              Take out
            </button>
          ) : null}
        </div>
      ))}
      <div>
        <button
          type="button"
          className="btn btn-outline btn-sm"
          onClick={() => onChange([...fields, { name: '', pointer: '/', kind: 'text', unit: '' }])}
        >
          Add a value
        </button>
      </div>
    </fieldset>
  );
}
