import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';

/** Erases somebody, after their name was written once more. */
export function EraseDialog({
  path,
  name,
  onDone,
  onClose,
}: {
  /** The address of the person. */
  path: `/api/people/${number}`;
  name: string;
  onDone: () => void;
  onClose: () => void;
}) {
  const form = useServerForm({
    values: { name: '' },
    send: async (given) => {
      await request('POST', `${path}/erase`, given);
      form.reset();
      onDone();
    },
  });
  return (
    <Dialog
      open
      title={`Erase ${name}?`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button
            type="button"
            className="btn btn-error"
            disabled={form.formState.isSubmitting}
            onClick={() => void form.submit()}
          >
            Erase for good
          </button>
        </>
      }
    >
      <form className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        <p>
          Name, addresses, attributes, what they are called elsewhere, all they signed in with, and their
          linked contacts are deleted. What they wrote, answered and received stays counted, under no name.
          Texts and record sheets in which others wrote of them keep what was written.
        </p>
        <p>This cannot be undone.</p>
        <TextField
          form={form}
          name="name"
          label={`Write “${name}” to go on`}
          autoComplete="off"
          maxLength={200}
        />
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
