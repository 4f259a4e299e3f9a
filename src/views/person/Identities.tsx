import { identitySchema, type Identity } from '../../core/directory/identity.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { bySchema } from '../../ui/form/bySchema.ts';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { refetch, useServer } from '../../ui/server.ts';
import { Awake } from '../../ui/Awake.tsx';
import { done } from '../../ui/toast.ts';

/** What somebody is called in other systems, so that an automation that reads a handle finds them. */
export function Identities({ personId, personName }: { personId: number; personName: string }) {
  const path = `/api/people/${personId}/identities` as const;
  const { data: identities, error } = useServer(path, { topics: ['people'] });
  const form = useServerForm({
    values: { system: '', value: '' },
    resolver: bySchema(identitySchema),
    send: async (given) => {
      await request('POST', path, given);
      await refetch(path);
      form.reset();
    },
  });
  const takeOut = async ({ id, system, value }: Identity): Promise<void> => {
    await request('DELETE', `${path}/${id}`);
    await refetch(path);
    await done(`“${value}” in ${system} is taken out.`, async () => {
      await request('POST', path, { system, value });
      await refetch(path);
    });
  };
  return (
    <section aria-labelledby="identities">
      <h2 id="identities" className="mb-1">
        In other systems
      </h2>
      <p className="mb-2 text-sm text-quiet">
        What {personName} is called there: a handle, a number, another address.
      </p>
      {error ? <p className="text-error">{wordsOf(error)}</p> : null}
      {identities?.length === 0 ? <p className="text-quiet">Nothing yet.</p> : null}
      <ul>
        {identities?.map((identity) => (
          <li key={identity.id} className="flex items-center gap-3 border-t border-base-300 py-1">
            <span className="text-quiet" dir="auto">
              {identity.system}
            </span>
            <span className="grow" dir="auto">
              {identity.value}
            </span>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              aria-label={`Take out ${identity.value} in ${identity.system}`}
              onClick={() => void takeOut(identity)}
            >
              Take out
            </button>
          </li>
        ))}
      </ul>
      <form
        className="flex flex-wrap items-end gap-2 py-2"
        noValidate
        onSubmit={(event) => void form.submit(event)}
      >
        <Awake>
          <TextField form={form} name="system" label="System" className="w-44" maxLength={40} />
          <TextField form={form} name="value" label="Called there" className="w-56" maxLength={200} />
          <button className="btn btn-outline btn-sm" disabled={form.formState.isSubmitting}>
            Note it
          </button>
        </Awake>
      </form>
      <FormProblem form={form} />
    </section>
  );
}
