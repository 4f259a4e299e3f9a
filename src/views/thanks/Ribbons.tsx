import { useState } from 'react';
import { useWatch } from 'react-hook-form';
import { EMBLEMS, newRibbonSchema, RIBBON_COLOURS, type Ribbon } from '../../core/thanks/ribbon.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { bySchema } from '../../ui/form/bySchema.ts';
import { FormProblem, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { Notice } from '../../ui/Notice.tsx';
import { RibbonBadge } from '../../ui/RibbonBadge.tsx';
import { useAwake } from '../../ui/useAwake.ts';

/** The ribbons there are, for coordinators to add to and to take out of use; and a month's thanks as a draft. */
export default function Ribbons({
  first,
  month,
  monthWords,
  mayAdd,
  thanks,
}: {
  first: (Ribbon & { retired: boolean })[];
  month: string;
  monthWords: string;
  mayAdd: boolean;
  /** How many thanks the month has. */
  thanks: number;
}) {
  const awake = useAwake();
  const [ribbons, setRibbons] = useState(first);
  const [error, setError] = useState<string>();
  const act = async (work: () => Promise<void>): Promise<void> => {
    setError(undefined);
    try {
      await work();
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  return (
    <>
      {thanks > 0 ? (
        <p className="mt-4">
          <button
            type="button"
            className="btn btn-outline"
            disabled={!awake}
            onClick={() =>
              void act(async () => {
                const { id } = await request('POST', '/api/thanks/digest', { month });
                location.assign(`/write/${id}`);
              })
            }
          >
            Gather the thanks of {monthWords} in a draft
          </button>
        </p>
      ) : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {mayAdd ? (
        <details className="mt-8 border-t border-base-300 pt-4">
          <summary className="min-h-11 cursor-pointer link-quiet">Ribbons</summary>
          <ul className="my-3 flex flex-wrap gap-3">
            {ribbons.map((ribbon) => (
              <li
                key={ribbon.id}
                className="flex w-36 flex-col items-center gap-1 border border-base-300 bg-base-100 p-3 text-center text-sm"
              >
                <span className={ribbon.retired ? 'opacity-40' : ''}>
                  <RibbonBadge ribbon={ribbon} size={44} />
                </span>
                {ribbon.name}
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  disabled={!awake}
                  aria-label={`${ribbon.retired ? 'Bring back' : 'Take out of use'}: ${ribbon.name}`}
                  onClick={() =>
                    void act(async () => {
                      await request('PUT', `/api/ribbons/${ribbon.id}/retired`, { retired: !ribbon.retired });
                      setRibbons((all) =>
                        all.map((each) =>
                          each.id === ribbon.id ? { ...each, retired: !ribbon.retired } : each,
                        ),
                      );
                    })
                  }
                >
                  {ribbon.retired ? 'Bring back' : 'Take out of use'}
                </button>
              </li>
            ))}
          </ul>
          <NewRibbon onMade={(ribbon) => setRibbons((all) => [...all, { ...ribbon, retired: false }])} />
        </details>
      ) : null}
    </>
  );
}

/** A ribbon to be added, seen as it is chosen. */
function NewRibbon({ onMade }: { onMade: (ribbon: Ribbon) => void }) {
  const awake = useAwake();
  const form = useServerForm<Omit<Ribbon, 'id'>>({
    values: { name: '', emblem: 'kettle', colour: 'bronze' },
    resolver: bySchema(newRibbonSchema),
    send: async (given) => {
      const { id } = await request('POST', '/api/ribbons', given);
      onMade({ ...given, id, name: given.name.trim() });
      form.reset();
    },
  });
  const { name, emblem = 'kettle', colour = 'bronze' } = useWatch({ control: form.control });
  return (
    <form className="flex flex-wrap items-end gap-3" noValidate onSubmit={(event) => void form.submit(event)}>
      <RibbonBadge ribbon={{ name: name || 'new', emblem, colour }} size={52} />
      <TextField form={form} name="name" label="Name" maxLength={60} />
      <SelectField form={form} name="emblem" label="Drawing">
        {EMBLEMS.map((each) => (
          <option key={each}>{each}</option>
        ))}
      </SelectField>
      <SelectField form={form} name="colour" label="Colour">
        {RIBBON_COLOURS.map((each) => (
          <option key={each}>{each}</option>
        ))}
      </SelectField>
      <button className="btn btn-primary" disabled={!awake || form.formState.isSubmitting}>
        Add the ribbon
      </button>
      <FormProblem form={form} />
    </form>
  );
}
