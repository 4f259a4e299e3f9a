import { useRef, useState } from 'react';
import { Controller } from 'react-hook-form';
import type { Cells, SheetColumn } from '../../core/sheets/sheet.ts';
import { request, newKey } from '../../ui/api.ts';
import { FormProblem } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { CellField } from './fields.tsx';

interface OpenForm {
  name: string;
  intro: string;
  fields: { column: SheetColumn; help: string; required: boolean }[];
}

/** Its fields, empty, until they are taken. */
function Fields({
  form,
  formKey,
  onTaken,
}: {
  form: OpenForm;
  formKey: string;
  onTaken: (thanks: string) => void;
}) {
  const intent = useRef<string | null>(null);
  const awake = useAwake();
  const given = useServerForm<{ cells: Cells; website: string }>({
    values: { cells: Object.fromEntries(form.fields.map(({ column }) => [column.id, ''])), website: '' },
    within: 'cells',
    send: async (filled) => {
      // Sent once more after a lost answer, it counts once.
      intent.current ??= newKey();
      onTaken((await request('POST', `/api/forms/${formKey}`, { ...filled, intent: intent.current })).thanks);
    },
  });
  const { errors, isSubmitting } = given.formState;
  return (
    <form noValidate className="flex max-w-xl flex-col gap-4" onSubmit={(event) => void given.submit(event)}>
      <h1 dir="auto">{form.name}</h1>
      {form.intro === '' ? null : <p dir="auto">{form.intro}</p>}
      {form.fields.map(({ column, help, required }) => (
        <Controller
          key={column.id}
          control={given.control}
          name={`cells.${column.id}`}
          render={({ field: { value, onChange } }) => (
            <CellField
              column={column}
              help={help}
              required={required}
              value={value}
              problem={errors.cells?.[column.id]?.message}
              onChange={onChange}
            />
          )}
        />
      ))}
      <div className="sr-only" aria-hidden="true">
        <label>
          Leave this empty
          <input tabIndex={-1} autoComplete="off" {...given.register('website')} />
        </label>
      </div>
      <FormProblem form={given} />
      <div>
        <button className="btn btn-primary" disabled={!awake || isSubmitting}>
          Send it
        </button>
      </div>
    </form>
  );
}

/** A form as whoever fills it in sees it, on a phone as at a desk. */
export default function Form({ form, formKey }: { form: OpenForm; formKey: string }) {
  const [thanks, setThanks] = useState<string>();
  if (thanks === undefined) return <Fields form={form} formKey={formKey} onTaken={setThanks} />;
  return (
    <div role="status">
      <h1 className="mb-3">{form.name}</h1>
      <p className="mb-4">{thanks}</p>
      <button type="button" className="btn btn-outline" onClick={() => setThanks(undefined)}>
        Fill it in once more
      </button>
    </div>
  );
}
