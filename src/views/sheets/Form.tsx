import { useState } from 'react';
import type { Cells, SheetColumn } from '../../core/sheets/sheet.ts';
import { ApiProblem, request, newKey, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { CellField } from './fields.tsx';

interface OpenForm {
  name: string;
  intro: string;
  fields: { column: SheetColumn; help: string; required: boolean }[];
}

/** A form as whoever fills it in sees it, on a phone as at a desk. */
export default function Form({ form, formKey }: { form: OpenForm; formKey: string }) {
  const [cells, setCells] = useState<Cells>({});
  const [intent, setIntent] = useState(newKey);
  const [website, setWebsite] = useState('');
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [error, setError] = useState<string>();
  const [thanks, setThanks] = useState<string>();
  const [busy, setBusy] = useState(false);
  const awake = useAwake();
  const send = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    setProblems({});
    try {
      const said = await request('POST', `/api/forms/${formKey}`, { cells, website, intent });
      setThanks(said.thanks);
    } catch (failure) {
      if (failure instanceof ApiProblem && failure.errors.length > 0)
        setProblems(Object.fromEntries(failure.errors.map(({ field, detail }) => [field, detail])));
      setError(wordsOf(failure));
    }
    setBusy(false);
  };
  const anew = (): void => {
    setCells({});
    setIntent(newKey());
    setThanks(undefined);
  };
  if (thanks !== undefined)
    return (
      <div role="status">
        <h1 className="mb-3">{form.name}</h1>
        <p className="mb-4">{thanks}</p>
        <button type="button" className="btn btn-outline" onClick={anew}>
          Fill it in once more
        </button>
      </div>
    );
  return (
    <form
      noValidate
      className="flex max-w-xl flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      <h1 dir="auto">{form.name}</h1>
      {form.intro === '' ? null : <p dir="auto">{form.intro}</p>}
      {form.fields.map(({ column, help, required }) => (
        <CellField
          key={column.id}
          column={column}
          help={help}
          required={required}
          value={cells[column.id] ?? ''}
          problem={problems[column.id]}
          onChange={(value) => setCells({ ...cells, [column.id]: value })}
        />
      ))}
      <div className="sr-only" aria-hidden="true">
        <label>
          Leave this empty
          <input
            tabIndex={-1}
            autoComplete="off"
            value={website}
            onChange={(event) => setWebsite(event.target.value)}
          />
        </label>
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <div>
        <button className="btn btn-primary" disabled={!awake || busy}>
          Send it
        </button>
      </div>
    </form>
  );
}
