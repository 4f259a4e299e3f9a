import { useId } from 'react';
import { useWatch } from 'react-hook-form';
import type { OccupationLine, PeopleKinds } from '../../core/people/kinds.ts';
import { people } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';

/** An occupation under another name; under that of another, the two become one. */
export function OccupationDialog({
  line,
  all,
  onClose,
  onDone,
}: {
  line: OccupationLine;
  all: readonly OccupationLine[];
  onClose: () => void;
  onDone: (kinds: PeopleKinds, said: string) => void;
}) {
  const id = useId();
  const form = useServerForm({
    values: { to: line.name },
    send: async (given) => {
      const to = given.to.trim();
      const kinds = await request('PUT', '/api/kinds/occupations', { from: line.name, to });
      form.reset(given);
      onDone(kinds, to === '' ? `${line.name} is taken away.` : `${line.name} is called ${to}.`);
    },
  });
  const to = useWatch({ control: form.control, name: 'to' }).trim();
  const other = all.find((each) => each.name === to && each.name !== line.name);
  return (
    <Dialog
      open
      title={`Rename ${line.name}`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Keep the name
          </button>
          <button
            form={id}
            className="btn btn-primary"
            disabled={form.formState.isSubmitting || to === line.name}
          >
            {to === '' ? 'Take it away' : other ? 'Make them one' : 'Rename it'}
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-3" noValidate onSubmit={(event) => void form.submit(event)}>
        <TextField form={form} name="to" label="Occupation" maxLength={80} />
        <p className="text-quiet" role="status">
          {to === ''
            ? `Left empty, ${people(line.people)} will have no occupation noted.`
            : other
              ? `${people(other.people)} are called so already. With ${people(line.people)} more it is one occupation, and cannot be told apart again.`
              : `${people(line.people)}, and whoever is written to by it, go along.`}
        </p>
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
