import { useState } from 'react';
import { useWatch } from 'react-hook-form';
import { Awake } from '../../ui/Awake.tsx';
import { request } from '../../ui/api.ts';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { done } from '../../ui/toast.ts';

/** One's own password: chosen for the first time, or changed. */
export function PasswordSettings({ has, mail }: { has: boolean; mail: string }) {
  const [known, setKnown] = useState(has);
  const form = useServerForm({
    values: { old: '', password: '' },
    send: async (given) => {
      await request('PUT', '/api/me/password', given);
      form.reset();
      setKnown(true);
      void done('It holds from now on. Whatever else was signed in as you is signed out.');
    },
  });
  const password = useWatch({ control: form.control, name: 'password' });
  return (
    <Awake>
      <section className="mb-10 max-w-2xl" aria-labelledby="password">
        <h2 id="password" className="mb-2">
          {known ? 'Your password' : 'Choose a password'}
        </h2>
        <form
          className="flex max-w-sm flex-col gap-3"
          noValidate
          onSubmit={(event) => void form.submit(event)}
        >
          <input type="hidden" name="username" autoComplete="username" value={mail} readOnly />
          {known ? (
            <TextField
              form={form}
              name="old"
              label="The one in use"
              type="password"
              autoComplete="current-password"
            />
          ) : null}
          <TextField
            form={form}
            name="password"
            label="The new one"
            type="password"
            autoComplete="new-password"
            maxLength={200}
          />
          <FormProblem form={form} />
          <button
            className="btn btn-outline self-start"
            disabled={form.formState.isSubmitting || password === ''}
          >
            {known ? 'Change it' : 'Choose it'}
          </button>
        </form>
      </section>
    </Awake>
  );
}
