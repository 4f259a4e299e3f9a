import { useEffect } from 'react';
import { MIN_PASSWORD } from '../../core/access/letter.ts';
import { request } from '../../ui/api.ts';
import { FormProblem, SelectField, TextField } from '../../ui/form/fields.tsx';
import { Awake } from '../../ui/Awake.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';

/** Makes the organisation and its first coordinator, in an empty database. */
export default function SetUp({ zones }: { zones: string[] }) {
  const form = useServerForm({
    values: { organisation: '', name: '', mail: '', password: '', zone: 'UTC' },
    send: async (given) => {
      const { to } = await request('POST', '/api/setup', given);
      form.reset(given);
      location.assign(to);
    },
  });
  const { setValue } = form;
  useEffect(() => {
    const { timeZone } = Intl.DateTimeFormat().resolvedOptions();
    if (zones.includes(timeZone)) setValue('zone', timeZone);
  }, [zones, setValue]);
  return (
    <form
      onSubmit={(event) => void form.submit(event)}
      noValidate
      method="post"
      className="flex max-w-md flex-col gap-4"
    >
      <Awake>
        <TextField
          form={form}
          name="organisation"
          label="Name of the organisation"
          autoComplete="organization"
        />
        <TextField form={form} name="name" label="Your name" autoComplete="name" />
        <TextField form={form} name="mail" label="Your mail address" type="email" autoComplete="email" />
        <TextField
          form={form}
          name="password"
          label={`A password, at least ${MIN_PASSWORD} characters`}
          type="password"
          autoComplete="new-password"
        />
        <SelectField form={form} name="zone" label="Time zone of the organisation">
          {zones.map((zone) => (
            <option key={zone}>{zone}</option>
          ))}
        </SelectField>
        <FormProblem form={form} />
        <button className="btn btn-primary" disabled={form.formState.isSubmitting}>
          Set up Clear Bell
        </button>
      </Awake>
    </form>
  );
}
