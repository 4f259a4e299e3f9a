import { isCalculated, type SheetColumn, type SheetForm } from '../../core/sheets/sheet.ts';

/** Whether a sheet has a form, who may send it in, what it asks for and what it says. */
export function FormShape({
  form,
  columns,
  onChange,
}: {
  form: SheetForm | null;
  columns: readonly SheetColumn[];
  onChange: (form: SheetForm | null) => void;
}) {
  const begin = (): SheetForm => ({
    open: false,
    intro: '',
    thanks: '',
    fields: columns
      .filter((column) => !isCalculated(column))
      .map((column) => ({ column: column.id, help: '', required: false })),
  });
  return (
    <fieldset className="flex flex-col gap-2 border-t border-base-300 pt-3">
      <legend className="font-semibold">Form</legend>
      <label className="flex min-h-10 items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={form !== null}
          onChange={(event) => onChange(event.target.checked ? begin() : null)}
        />
        Records can be sent in by a form
      </label>
      {form ? (
        <>
          <label className="flex min-h-10 items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={form.open}
              onChange={(event) => onChange({ ...form, open: event.target.checked })}
            />
            By anybody who has its address, also without signing in
          </label>
          <label className="flex flex-col gap-1">
            What stands above it
            <textarea
              className="textarea w-full"
              maxLength={1000}
              dir="auto"
              value={form.intro}
              onChange={(event) => onChange({ ...form, intro: event.target.value })}
            />
          </label>
          <label className="flex flex-col gap-1">
            What is said once it is sent
            <input
              className="input w-full"
              maxLength={500}
              dir="auto"
              value={form.thanks}
              onChange={(event) => onChange({ ...form, thanks: event.target.value })}
            />
          </label>
          <ul className="flex flex-col gap-1" aria-label="What it asks for">
            {columns.map((column) => {
              if (isCalculated(column)) return null;
              const field = form.fields.find((each) => each.column === column.id);
              const others = form.fields.filter((each) => each.column !== column.id);
              const keep = (next: SheetForm['fields'][number] | null): void =>
                onChange({
                  ...form,
                  fields: columns.flatMap(({ id }) =>
                    id === column.id ? (next ?? []) : (others.find((each) => each.column === id) ?? []),
                  ),
                });
              return (
                <li key={column.id} className="flex flex-wrap items-center gap-x-4">
                  <label className="flex min-h-10 items-center gap-2">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-sm"
                      checked={field !== undefined}
                      onChange={(event) =>
                        keep(event.target.checked ? { column: column.id, help: '', required: false } : null)
                      }
                    />
                    <span dir="auto">{column.name || 'a column without a name'}</span>
                  </label>
                  {field ? (
                    <>
                      <label className="flex min-h-10 items-center gap-2 text-sm">
                        <input
                          type="checkbox"
                          className="checkbox checkbox-sm"
                          checked={field.required}
                          onChange={(event) => keep({ ...field, required: event.target.checked })}
                        />
                        needed
                      </label>
                      <input
                        className="input input-sm grow"
                        aria-label={`Help for ${column.name}`}
                        placeholder="Help"
                        maxLength={200}
                        dir="auto"
                        value={field.help}
                        onChange={(event) => keep({ ...field, help: event.target.value })}
                      />
                    </>
                  ) : null}
                </li>
              );
            })}
          </ul>
        </>
      ) : null}
    </fieldset>
  );
}
