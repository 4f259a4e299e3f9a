import type { GatewayChoices } from '../../core/gateways/choices.ts';
import type { HookOut } from '../../core/gateways/hookOut.ts';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { EventFields, NEW_PLACE, PlaceFieldset, Purpose } from './HookOutFields.tsx';
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
  const { made, send } = useSentWay('out', given);
  const form = useServerForm<HookOut>({
    values: given?.hook ?? {
      name: '',
      url: '',
      kinds: ['post.up'],
      boardId: null,
      groupId: null,
      place: null,
    },
    send: async (hook) => {
      await send(hook);
      form.reset(hook);
      if (given) onClose();
    },
  });
  const place = form.watch('place');
  const choose = (isPlace: boolean): void =>
    form.setValue('place', isPlace ? NEW_PLACE : null, { shouldDirty: true });
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
      {given ? null : <Purpose place={place !== null} onChoose={choose} />}
      {place === null ? (
        <EventFields form={form} boards={boards} groups={groups} />
      ) : (
        <PlaceFieldset form={form} />
      )}
      <FormProblem form={form} />
    </WayForm>
  );
}
