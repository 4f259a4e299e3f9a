import { useId, useState } from 'react';
import { useWatch } from 'react-hook-form';
import {
  inputsOf,
  sourceFormSchema,
  type Source,
  type SourceAnswer,
  type SourceForm,
} from '../../core/automation/source.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { bySchema } from '../../ui/form/bySchema.ts';
import { FormProblem, NumberField, TextField } from '../../ui/form/fields.tsx';
import { NamedValuesField } from '../../ui/form/NamedValuesField.tsx';
import { SecretFields } from '../../ui/form/SecretFields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { Notice } from '../../ui/Notice.tsx';

const EMPTY: Source = {
  name: '',
  url: 'https://',
  header: '',
  fields: [{ name: '', pointer: '/', kind: 'number', unit: '' }],
  keepMinutes: 30,
};

/** An outside source to be added or changed, which can be asked before it is kept. */
export function SourceDialog({
  given,
  onClose,
}: {
  given: (Source & { id: number; hasSecret: boolean }) | null;
  onClose: () => void;
}) {
  const [answer, setAnswer] = useState<SourceAnswer>();
  const id = useId();
  const { name, url, header, fields, keepMinutes } = given ?? EMPTY;
  const form = useServerForm<SourceForm>({
    values: { source: { name, url, header, fields, keepMinutes }, secret: '', inputs: {} },
    resolver: bySchema(sourceFormSchema),
    send: async (filled) => {
      const { source, secret } = filled;
      if (given) await request('PUT', `/api/sources/${given.id}`, { source, secret });
      else await request('POST', '/api/sources', { source, secret });
      form.reset(filled);
      location.reload();
    },
  });
  const address = useWatch({ control: form.control, name: 'source.url' });
  const ask = (): Promise<void> =>
    form.attempt(async () => {
      setAnswer(undefined);
      const { source, secret, inputs } = form.getValues();
      // What was asked for by an address that is written otherwise now is not sent.
      const wanted = Object.fromEntries(inputsOf(source.url).map((input) => [input, inputs[input] ?? '']));
      setAnswer(
        await request('POST', '/api/sources/try', { source, secret, id: given?.id ?? null, inputs: wanted }),
      );
    });
  return (
    <Dialog
      open
      title={given ? 'Change the source' : 'Add a source'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button type="button" className="btn btn-outline" onClick={() => void ask()}>
            Ask it
          </button>
          <button form={id} className="btn btn-primary" disabled={form.formState.isSubmitting}>
            {given ? 'Change it' : 'Add it'}
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-3" noValidate onSubmit={(event) => void form.submit(event)}>
        <TextField form={form} name="source.name" label="Name" maxLength={80} />
        <TextField
          form={form}
          name="source.url"
          label="Address, with {place} where an input stands"
          maxLength={500}
        />
        <SecretFields form={form} header="source.header" secret="secret" kept={given?.hasSecret ?? false} />
        <NamedValuesField form={form} name="source.fields" legend="What of its answer is used" least={1} />
        <NumberField
          form={form}
          name="source.keepMinutes"
          label="Minutes an answer is kept"
          min={0}
          max={1440}
          className="self-start"
        />
        {inputsOf(address).map((input) => (
          <TextField
            key={input}
            form={form}
            name={`inputs.${input}`}
            label={`To ask it now: ${input}`}
            maxLength={200}
          />
        ))}
        {answer ? <Answered answer={answer} /> : null}
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}

/** What a source answered, and what of it would be used. */
function Answered({ answer: { answer, values, problem } }: { answer: SourceAnswer }) {
  return (
    <div role="status">
      {problem === null ? null : <Notice tone="error">{problem}</Notice>}
      {values.map((each) => (
        <p key={each.name}>
          {each.name}: {each.value === '' ? <span className="text-warning">nothing</span> : each.value}
        </p>
      ))}
      {answer === '' ? null : (
        // What can be moved in by itself can be reached by keyboard.
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
        <pre className="mt-2 max-h-48 overflow-auto bg-base-200 p-2 text-sm" tabIndex={0}>
          {answer}
        </pre>
      )}
    </div>
  );
}
