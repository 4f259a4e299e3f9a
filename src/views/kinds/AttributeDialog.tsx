import { useId } from 'react';
import { useWatch } from 'react-hook-form';
import {
  ATTRIBUTE_KINDS,
  ATTRIBUTE_KIND_WORDS,
  attributeKey,
  type AttributeLine,
  type PeopleKinds,
} from '../../core/people/kinds.ts';
import { people } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, LinesField, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';

const linesOf = (text: string): string[] =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');

/** An attribute to be made, or one that is changed: its name, and what it holds. */
export function AttributeDialog({
  line,
  all,
  onClose,
  onDone,
}: {
  /** Null for a new one. */
  line: AttributeLine | null;
  all: readonly AttributeLine[];
  onClose: () => void;
  onDone: (kinds: PeopleKinds, said: string) => void;
}) {
  const id = useId();
  const form = useServerForm({
    values: {
      name: line?.name ?? '',
      kind: line?.kind ?? 'text',
      choices: (line && line.choices.length > 0 ? line.choices : (line?.values ?? [])).join('\n'),
    },
    send: async ({ name, kind, choices }) => {
      const kinds = await request('PUT', '/api/kinds/attributes', {
        from: line?.name ?? null,
        name,
        kind,
        choices: kind === 'choice' ? linesOf(choices) : [],
      });
      form.reset({ name, kind, choices });
      onDone(kinds, line ? `${name.trim()} is changed.` : `${name.trim()} is made.`);
    },
  });
  const { name = '', kind } = useWatch({ control: form.control });
  const other = line
    ? all.find((each) => each !== line && attributeKey(each.name) === attributeKey(name.trim()))
    : undefined;
  return (
    <Dialog
      open
      title={line ? `Change ${line.name}` : 'Make an attribute'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            {line ? 'Keep it as it is' : 'Make none'}
          </button>
          <button
            form={id}
            className="btn btn-primary"
            disabled={form.formState.isSubmitting || name.trim() === ''}
          >
            {other ? 'Make them one' : line ? 'Change it' : 'Make it'}
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-3" noValidate onSubmit={(event) => void form.submit(event)}>
        <TextField form={form} name="name" label="Name" maxLength={60} />
        {other ? (
          <p className="text-warning" role="status">
            There is {other.name} already, of {people(other.people)}. The two become one; whoever has both
            keeps what {other.name} says.
          </p>
        ) : null}
        <SelectField form={form} name="kind" label="What it holds">
          {ATTRIBUTE_KINDS.map((each) => (
            <option key={each} value={each}>
              {ATTRIBUTE_KIND_WORDS[each]}
            </option>
          ))}
        </SelectField>
        {kind === 'choice' ? (
          <LinesField form={form} name="choices" label="What can be chosen, each on a line of its own" />
        ) : null}
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
