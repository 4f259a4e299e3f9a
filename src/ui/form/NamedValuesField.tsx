import { useFieldArray, type ArrayPath, type FieldArray, type FieldValues, type Path } from 'react-hook-form';
import { CELL_KINDS } from '../../core/sheets/cell.ts';
import type { NamedValue } from '../../core/automation/source.ts';
import { SelectField, TextField } from './fields.tsx';
import type { ServerForm } from './useServerForm.ts';

const EMPTY: NamedValue = { name: '', pointer: '/', kind: 'text', unit: '' };

/** Values that are taken out of JSON from outside, each by its pointer, under a name. */
export function NamedValuesField<T extends FieldValues>({
  form,
  name,
  legend,
  least,
}: {
  form: ServerForm<T>;
  name: ArrayPath<T> & Path<T>;
  legend: string;
  /** As many at least stay. */
  least: number;
}) {
  const { fields, append, remove } = useFieldArray({ control: form.control, name });
  const { error } = form.getFieldState(name, form.formState);
  const of = (at: number, part: keyof NamedValue): Path<T> => `${name}.${at}.${part}` as Path<T>;
  return (
    <fieldset className="flex flex-col gap-2">
      <legend className="font-semibold">{legend}</legend>
      {fields.map((field, at) => (
        <div
          key={field.id}
          className="flex flex-wrap items-start gap-2 border-l border-base-300 pl-3 text-sm"
        >
          <TextField form={form} name={of(at, 'name')} label="Called" maxLength={40} className="w-28" />
          <TextField
            form={form}
            name={of(at, 'pointer')}
            label="Where it stands (JSON pointer)"
            maxLength={200}
            className="grow [&_input]:font-mono"
          />
          <SelectField form={form} name={of(at, 'kind')} label="Holds" className="w-28">
            {CELL_KINDS.filter((kind) => kind !== 'choice').map((kind) => (
              <option key={kind} value={kind}>
                {kind}
              </option>
            ))}
          </SelectField>
          <TextField form={form} name={of(at, 'unit')} label="Unit" maxLength={12} className="w-16" />
          {fields.length > least ? (
            <button type="button" className="btn btn-ghost btn-sm mt-7" onClick={() => remove(at)}>
              Take out
            </button>
          ) : null}
        </div>
      ))}
      {error?.message === undefined ? null : <span className="text-error">{error.message}</span>}
      <div>
        <button
          type="button"
          className="btn btn-outline btn-sm"
          onClick={() => append(EMPTY as FieldArray<T, ArrayPath<T>>)}
        >
          Add a value
        </button>
      </div>
    </fieldset>
  );
}
