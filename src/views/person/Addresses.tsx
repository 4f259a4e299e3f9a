import { addressSchema, type Address } from '../../core/people/person.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { bySchema } from '../../ui/form/bySchema.ts';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';

/** Addresses of somebody besides the one mail goes to: they are found, matched and signed in by any of them. */
export function Addresses({ personId, personName }: { personId: number; personName: string }) {
  const path = `/api/people/${personId}/addresses` as const;
  const { data: addresses, error } = useServer(path, { topics: ['people'] });
  const { busy, error: failed, act } = useActs();
  const form = useServerForm({
    values: { mail: '' },
    resolver: bySchema(addressSchema),
    send: async (given) => {
      await request('POST', path, given);
      await refetch(path);
      form.reset();
    },
  });
  const takeOut = async ({ id, mail }: Address): Promise<void> => {
    await request('DELETE', `${path}/${id}`);
    await refetch(path);
    await done(`${mail} is taken out.`, async () => {
      await request('POST', path, { mail });
      await refetch(path);
    });
  };
  const prefer = async ({ id, mail }: Address): Promise<void> => {
    await request('PUT', `${path}/${id}`);
    await Promise.all([refetch(path), refetch(`/api/people/${personId}`)]);
    void done(`Mail goes to ${mail} from now on.`);
  };
  return (
    <section aria-labelledby="addresses">
      <h2 id="addresses" className="mb-1">
        Further addresses
      </h2>
      <p className="mb-2 text-sm text-quiet">
        By these too {personName} signs in, is found, and is known in lists. Mail goes to none of them.
      </p>
      {error ? <p className="text-error">{wordsOf(error)}</p> : null}
      {failed === undefined ? null : <Notice tone="error">{failed}</Notice>}
      {addresses?.length === 0 ? <p className="text-quiet">None.</p> : null}
      <ul>
        {addresses?.map((address) => (
          <li key={address.id} className="flex flex-wrap items-center gap-3 border-t border-base-300 py-1">
            <span className="mr-auto">{address.mail}</span>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={busy}
              aria-label={`Let mail go to ${address.mail}`}
              onClick={act(() => prefer(address))}
            >
              Let mail go there
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={busy}
              aria-label={`Take out ${address.mail}`}
              onClick={act(() => takeOut(address))}
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
          <TextField form={form} name="mail" label="Another address" type="email" className="w-72" />
          <button className="btn btn-outline btn-sm" disabled={form.formState.isSubmitting}>
            Note it
          </button>
        </Awake>
      </form>
      <FormProblem form={form} />
    </section>
  );
}
