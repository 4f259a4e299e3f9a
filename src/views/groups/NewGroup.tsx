import { useId } from 'react';
import { Controller, useWatch } from 'react-hook-form';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { RuleForm } from './RuleForm.tsx';

interface Given {
  name: string;
  kind: 'fixed' | 'filled' | 'live';
  rule: Audience | null;
}

const KINDS = [
  ['fixed', 'Picked by hand: people are put in and taken out'],
  ['filled', 'Picked by hand, beginning with whoever a sentence names now'],
  ['live', 'By a rule: whoever it holds for, at every moment'],
] as const;

/** A group to be made: picked by hand, or live by a rule whose outcome is seen before it is saved. */
export function NewGroup({
  open,
  rule: given = null,
  choices,
  onClose,
}: {
  open: boolean;
  /** The rule it begins with, where it is made of what was chosen elsewhere. */
  rule?: Audience | null;
  choices: AudienceChoices;
  onClose: () => void;
}) {
  const id = useId();
  const form = useServerForm<Given>({
    values: { name: '', kind: given ? 'live' : 'fixed', rule: given },
    send: async ({ name, kind, rule }) => {
      const made = await request('POST', '/api/groups', {
        name,
        rule: kind === 'live' ? rule : null,
        begin: kind === 'filled' ? rule : null,
      });
      form.reset({ name, kind, rule });
      location.assign(`/groups/${made.id}`);
    },
  });
  const { name, kind, rule } = useWatch({ control: form.control });
  return (
    <Dialog
      open={open}
      title="Make a group"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Make none
          </button>
          <button
            form={id}
            className="btn btn-primary"
            disabled={
              form.formState.isSubmitting || (name ?? '').trim() === '' || (kind !== 'fixed' && !rule)
            }
          >
            Make it
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        <TextField form={form} name="name" label="Name" maxLength={120} />
        <fieldset>
          <legend>Who belongs to it</legend>
          {KINDS.map(([value, words]) => (
            <label key={value} className="flex min-h-11 items-center gap-2">
              <input type="radio" value={value} className="radio radio-primary" {...form.register('kind')} />
              {words}
            </label>
          ))}
        </fieldset>
        {kind !== 'fixed' ? (
          <Controller
            control={form.control}
            name="rule"
            render={({ field }) => (
              <RuleForm
                label={kind === 'live' ? 'The rule' : 'Whoever is now'}
                rule={field.value}
                groupId={null}
                choices={choices}
                onChange={field.onChange}
              />
            )}
          />
        ) : null}
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
