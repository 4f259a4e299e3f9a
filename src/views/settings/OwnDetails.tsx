import { Controller, useWatch } from 'react-hook-form';
import type { z } from 'zod';
import type { ownDetailsSchema } from '../../core/people/person.ts';
import { zoneWords } from '../../core/timing/words.ts';
import { request } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { ZoneField } from '../../ui/ZoneField.tsx';

/** How one is greeted, and the clock one reads by. The clock of the browser is offered and never taken by itself. */
export function OwnDetails({ own }: { own: z.infer<typeof ownDetailsSchema> }) {
  const awake = useAwake();
  const form = useServerForm({
    values: own,
    send: async (given) => {
      await request('PUT', '/api/me/details', given);
      form.reset(given);
      void done('It holds from now on.');
    },
  });
  const zone = useWatch({ control: form.control, name: 'zone' });
  const here = awake ? Intl.DateTimeFormat().resolvedOptions().timeZone : zone;
  return (
    <Awake>
      <section className="mb-10 max-w-2xl" aria-labelledby="details">
        <h2 id="details" className="mb-2">
          Your greeting and your clock
        </h2>
        <p className="mb-3 text-quiet">
          Your name is changed by a coordinator. Hours are told, and what is planned reaches you, by the clock
          chosen here.
        </p>
        <form
          className="flex max-w-sm flex-col gap-3"
          noValidate
          onSubmit={(event) => void form.submit(event)}
        >
          <TextField
            form={form}
            name="greeting"
            label="How to greet you, if not by your first name"
            autoComplete="nickname"
            maxLength={80}
          />
          <Controller
            control={form.control}
            name="zone"
            render={({ field }) => (
              <ZoneField label="You read by the clock of" value={field.value} onChange={field.onChange} />
            )}
          />
          {here === zone ? null : (
            <p className="text-sm">
              Your browser goes by the clock of {zoneWords(here)}.{' '}
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                onClick={() => form.setValue('zone', here, { shouldDirty: true })}
              >
                Take that one
              </button>
            </p>
          )}
          <FormProblem form={form} />
          <button className="btn btn-outline self-start" disabled={form.formState.isSubmitting}>
            Save
          </button>
        </form>
      </section>
    </Awake>
  );
}
