import { useMemo } from 'react';
import { JOINING_WORDS, JOININGS, type Door } from '../../core/groups/joining.ts';
import type { GroupPage } from '../../core/groups/group.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { FormProblem, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { Requests } from './Requests.tsx';

/** How a fixed group takes people in; for coordinators. */
export function DoorForm({
  group,
  zone,
}: {
  group: Pick<GroupPage, 'id' | 'name' | 'owners'>;
  zone: string;
}) {
  const path = `/api/groups/${group.id}/door` as const;
  const { data, error } = useServer(path, {
    topics: useMemo(() => [`group:${group.id}`], [group.id]),
  });
  if (error) return <Notice tone="error">{wordsOf(error)}</Notice>;
  return data ? (
    <>
      <Requests group={group} requests={data.requests} zone={zone} onAnswered={() => refetch(path)} />
      <Filled
        key={JSON.stringify([data.joining, data.ownerBrings, data.about])}
        path={path}
        data={data}
        owned={group.owners.length > 0}
      />
    </>
  ) : (
    <p className="text-quiet">One moment …</p>
  );
}

function Filled({ path, data, owned }: { path: `/api/groups/${number}/door`; data: Door; owned: boolean }) {
  const form = useServerForm<Door>({
    values: { joining: data.joining, ownerBrings: data.ownerBrings, about: data.about },
    send: async (given) => {
      await request('PUT', path, given);
      form.reset(given);
      void done('It holds from now on.');
      await refetch(path);
    },
  });
  return (
    <form
      className="flex max-w-xl flex-col gap-3"
      noValidate
      aria-label="How people come in"
      onSubmit={(event) => void form.submit(event)}
    >
      <SelectField form={form} name="joining" label="Coming in">
        {JOININGS.map((joining) => (
          <option key={joining} value={joining}>
            {JOINING_WORDS[joining]}
          </option>
        ))}
      </SelectField>
      <TextField form={form} name="about" label="What it is for, to whoever may come in" maxLength={300} />
      <label className="flex min-h-11 items-center gap-2">
        <input type="checkbox" className="checkbox checkbox-primary" {...form.register('ownerBrings')} />
        Whoever looks after it may bring in people, also such as are not here yet
      </label>
      {owned ? null : (
        <p className="text-warning">
          Nobody looks after it: nobody can be asked, and nobody brings anybody in.
        </p>
      )}
      <FormProblem form={form} />
      <button
        className="btn btn-outline self-start"
        disabled={form.formState.isSubmitting || !form.formState.isDirty}
      >
        Let it hold
      </button>
    </form>
  );
}
