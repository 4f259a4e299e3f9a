import { useId } from 'react';
import type { SheetView } from '../../core/sheets/view.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { refetch } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

/** A view is kept under a name: for oneself, or for everybody who sees the sheet. */
export function KeepView({
  path,
  view,
  mayShare,
  onKept,
  onClose,
}: {
  /** Where the sheet's views are. */
  path: `/api/sheets/${number}/views`;
  view: SheetView;
  mayShare: boolean;
  onKept: (id: number) => void;
  onClose: () => void;
}) {
  const id = useId();
  const form = useServerForm<{ name: string; shared: boolean }>({
    values: { name: '', shared: false },
    send: async (given) => {
      const made = await request('POST', path, { ...given, view });
      await refetch(path);
      onKept(made.id);
      void done(`“${given.name.trim()}” is kept.`);
      onClose();
    },
  });
  return (
    <Dialog
      open
      title="Keep this view"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button form={id} className="btn btn-primary" disabled={form.formState.isSubmitting}>
            Keep it
          </button>
        </>
      }
    >
      <form id={id} noValidate className="flex flex-col gap-3" onSubmit={(event) => void form.submit(event)}>
        <TextField form={form} name="name" label="What it is called" />
        {mayShare ? (
          <label className="flex min-h-11 items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-primary" {...form.register('shared')} />
            For everybody who sees this sheet
          </label>
        ) : null}
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
