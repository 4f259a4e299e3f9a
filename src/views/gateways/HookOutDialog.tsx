import { useId, useState } from 'react';
import type { GatewayChoices } from '../../core/gateways/choices.ts';
import { OUT_KINDS, type HookOut, type OutKind } from '../../core/gateways/hookOut.ts';
import { ask } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, idOrNone, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { SecretOnce } from './SecretOnce.tsx';

/** A way out to be made or changed. Once it is made its secret is told. */
export function HookOutDialog({
  given,
  boards,
  onClose,
}: {
  given: { id: number; hook: HookOut; revision: number } | null;
  boards: GatewayChoices['boards'];
  onClose: () => void;
}) {
  const id = useId();
  const [made, setMade] = useState<{ id: number; secret: string }>();
  const form = useServerForm<HookOut>({
    values: given?.hook ?? { name: '', url: '', kinds: ['post.up'], boardId: null },
    send: async (hook) => {
      if (given) await ask('PUT', `/api/gateways/out/${given.id}`, { ...hook, revision: given.revision });
      else setMade(await ask<{ id: number; secret: string }>('POST', '/api/gateways/out', hook));
      form.reset(hook);
      if (given) onClose();
    },
  });
  if (made)
    return (
      <SecretOnce
        secret={made.secret}
        words="The outside system checks with it that it is told by Clear Bell."
        onClose={() => location.assign(`/gateways/out/${made.id}`)}
      />
    );
  const problem = form.formState.errors.kinds?.message;
  return (
    <Dialog
      open
      title={given ? 'Change the way out' : 'A new way out'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button form={id} className="btn btn-primary" disabled={form.formState.isSubmitting}>
            {given ? 'Change it' : 'Make it'}
          </button>
        </>
      }
    >
      <form id={id} noValidate className="flex flex-col gap-3" onSubmit={(event) => void form.submit(event)}>
        <TextField form={form} name="name" label="Which system is told" maxLength={80} />
        <TextField form={form} name="url" type="url" label="At which address" maxLength={500} />
        <fieldset>
          <legend className="mb-1 font-semibold">Of what</legend>
          <div className="grid gap-x-6 sm:grid-cols-2">
            {(Object.entries(OUT_KINDS) as [OutKind, string][]).map(([kind, words]) => (
              <label key={kind} className="flex min-h-10 items-center gap-2">
                <input
                  type="checkbox"
                  value={kind}
                  className="checkbox checkbox-primary"
                  {...form.register('kinds')}
                />
                {words}
              </label>
            ))}
          </div>
          {problem === undefined ? null : <span className="text-error">{problem}</span>}
        </fieldset>
        <SelectField form={form} name="boardId" label="Of what goes up, only on" read={idOrNone}>
          <option value="">any board</option>
          {boards.map((board) => (
            <option key={board.id} value={board.id}>
              {board.name}
            </option>
          ))}
        </SelectField>
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
