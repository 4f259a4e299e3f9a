import type { Leave } from '../../core/people/leave.ts';
import { request } from '../../ui/api.ts';
import { DayField } from '../../ui/form/DayField.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';

/** When somebody is on leave. */
export function LeaveDialog({
  path,
  name,
  leave,
  onDone,
  onClose,
}: {
  /** The address of the person. */
  path: `/api/people/${number}`;
  name: string;
  leave: Leave | null;
  onDone: (words: string) => void;
  onClose: () => void;
}) {
  const form = useServerForm<{ from: string; until: string }>({
    values: { from: leave?.from ?? '', until: leave?.until ?? '' },
    send: async ({ from, until }) => {
      await request('PUT', `${path}/leave`, { from, until: until === '' ? null : until });
      form.reset({ from, until });
      onDone(`The leave of ${name} is noted.`);
    },
  });
  return (
    <Dialog
      open
      title={`When is ${name} on leave?`}
      onClose={onClose}
      actions={
        <>
          {leave ? (
            <button
              type="button"
              className="btn btn-ghost mr-auto"
              onClick={() => {
                void request('DELETE', `${path}/leave`).then(
                  () => onDone(`${name} is back from leave.`),
                  (problem: unknown) =>
                    form.setError('root', {
                      message: problem instanceof Error ? problem.message : 'That did not work. Try again.',
                    }),
                );
              }}
            >
              No leave
            </button>
          ) : null}
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={form.formState.isSubmitting}
            onClick={() => void form.submit()}
          >
            Note it
          </button>
        </>
      }
    >
      <form className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        <div className="flex flex-wrap gap-4">
          <DayField form={form} name="from" label="First day" />
          <DayField form={form} name="until" label="Last day, if it is known" />
        </div>
        <p className="text-quiet">
          By their own clock. Audiences tell who is on leave, and check-ins are not asked of them. Afterwards
          they are back by themselves.
        </p>
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
