import { SCOPE_NAMES, SCOPES, TOKEN_DAYS, type Scope } from '../../core/api/token.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';

const DAYS_WORDS: Record<(typeof TOKEN_DAYS)[number], string> = {
  7: 'a week',
  30: 'a month',
  90: 'three months',
  365: 'a year',
};

const FORM = 'new-token';

/** Asks what a token is for, what it may do, and how long it holds. */
export function TokenDialog({ onMade, onClose }: { onMade: (token: string) => void; onClose: () => void }) {
  const form = useServerForm<{ name: string; scopes: Scope[]; days: `${(typeof TOKEN_DAYS)[number]}` }>({
    values: { name: '', scopes: [], days: '90' },
    send: async ({ name, scopes, days }) => {
      const { token } = await request('POST', '/api/tokens', {
        name,
        scopes,
        days: Number(days) as (typeof TOKEN_DAYS)[number],
      });
      onMade(token);
    },
  });
  const problem = form.getFieldState('scopes', form.formState).error?.message;
  return (
    <Dialog
      open
      title="Make a token"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button form={FORM} className="btn btn-primary" disabled={form.formState.isSubmitting}>
            Make it
          </button>
        </>
      }
    >
      <form
        id={FORM}
        className="flex flex-col gap-4"
        noValidate
        onSubmit={(event) => void form.submit(event)}
      >
        <TextField
          form={form}
          name="name"
          label="Which program it is for"
          maxLength={80}
          autoComplete="off"
        />
        <fieldset aria-describedby={problem === undefined ? undefined : 'scopes-problem'}>
          <legend className="mb-1">It may, as far as you may yourself,</legend>
          {SCOPE_NAMES.map((scope) => (
            <label key={scope} className="flex min-h-9 items-center gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-primary checkbox-sm"
                value={scope}
                {...form.register('scopes')}
              />
              <span>
                {SCOPES[scope]} <span className="text-sm text-quiet">{scope}</span>
              </span>
            </label>
          ))}
          {problem === undefined ? null : (
            <p id="scopes-problem" className="text-error">
              {problem}
            </p>
          )}
        </fieldset>
        <SelectField form={form} name="days" label="It holds for">
          {TOKEN_DAYS.map((days) => (
            <option key={days} value={days}>
              {DAYS_WORDS[days]}
            </option>
          ))}
        </SelectField>
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
