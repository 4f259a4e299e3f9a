import type { GatewayChoices } from '../../core/gateways/choices.ts';
import { OUT_KINDS, type HookOut, type OutKind } from '../../core/gateways/hookOut.ts';
import { FormProblem, idOrNone, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { useSentWay, WayForm } from './WayForm.tsx';

/** A way out to be made or changed. Once it is made its secret is told. */
export function HookOutDialog({
  given,
  choices: { boards, groups },
  onClose,
}: {
  given: { id: number; hook: HookOut; revision: number } | null;
  choices: Pick<GatewayChoices, 'boards' | 'groups'>;
  onClose: () => void;
}) {
  const { made, send } = useSentWay('/api/gateways/out', given);
  const form = useServerForm<HookOut>({
    values: given?.hook ?? { name: '', url: '', kinds: ['post.up'], boardId: null, groupId: null },
    send: async (hook) => {
      await send(hook);
      form.reset(hook);
      if (given) onClose();
    },
  });
  const problem = form.formState.errors.kinds?.message;
  return (
    <WayForm
      way="out"
      changes={given !== null}
      made={made}
      secretWords="The outside system checks with it that it is told by Clear Bell."
      busy={form.formState.isSubmitting}
      onSubmit={form.submit}
      onClose={onClose}
    >
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
      <SelectField form={form} name="groupId" label="Of people, only of those in" read={idOrNone}>
        <option value="">any group</option>
        {groups.map((group) => (
          <option key={group.id} value={group.id}>
            {group.name}
          </option>
        ))}
      </SelectField>
      <FormProblem form={form} />
    </WayForm>
  );
}
