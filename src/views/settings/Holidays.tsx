import { useState } from 'react';
import { Controller, useWatch } from 'react-hook-form';
import { Awake } from '../../ui/Awake.tsx';
import { DateField } from '../../ui/DateField.tsx';
import type { Holiday } from '../../core/people/working.ts';
import { dateWords } from '../../core/timing/words.ts';
import { request, exactWordsOf } from '../../ui/api.ts';
import { FormProblem, idOrNone, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { Notice } from '../../ui/Notice.tsx';

/** Days on which nobody works, at one station or everywhere; for coordinators. */
export function Holidays({
  first,
  stations,
}: {
  first: Holiday[];
  stations: { id: number; name: string }[];
}) {
  const [found, setFound] = useState(first);
  const [error, setError] = useState<string>();
  const fail = (problem: unknown): void => setError(exactWordsOf(problem));
  const form = useServerForm<{ on: string; name: string; stationId: number | null }>({
    values: { on: '', name: '', stationId: null },
    send: async (given) => {
      const { id } = await request('POST', '/api/organisation-settings/holidays', given);
      const station = stations.find((each) => each.id === given.stationId)?.name ?? null;
      setFound((before) => [...before, { ...given, id, station }].sort((a, b) => (a.on < b.on ? -1 : 1)));
      form.reset();
    },
  });
  const { on, name } = useWatch({ control: form.control });
  return (
    <Awake>
      <section className="mb-10 max-w-2xl" aria-labelledby="holidays">
        <h2 id="holidays" className="mb-2">
          Holidays
        </h2>
        <p className="mb-3 text-quiet">
          On these days check-ins are not asked, at one station or everywhere.
        </p>
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        {found.length === 0 ? <p className="text-quiet">No holidays are noted.</p> : null}
        <ul>
          {found.map((holiday) => (
            <li key={holiday.id} className="flex min-h-11 items-center gap-3 border-t border-base-300">
              <span className="flex-1">
                {dateWords(Date.parse(`${holiday.on}T12:00:00Z`), 'UTC')}: {holiday.name}{' '}
                <span className="text-sm text-quiet">{holiday.station ?? 'everywhere'}</span>
              </span>
              <button
                type="button"
                className="btn btn-outline"
                aria-label={`Take out ${holiday.name}`}
                onClick={() => {
                  request('DELETE', `/api/organisation-settings/holidays/${holiday.id}`).then(
                    () => setFound((before) => before.filter((each) => each.id !== holiday.id)),
                    fail,
                  );
                }}
              >
                Take out
              </button>
            </li>
          ))}
        </ul>
        <form
          className="mt-2 flex flex-wrap items-end gap-3"
          noValidate
          onSubmit={(event) => void form.submit(event)}
        >
          <Controller
            control={form.control}
            name="on"
            render={({ field }) => (
              <DateField label="Date" className="w-44" value={field.value} onChange={field.onChange} />
            )}
          />
          <TextField form={form} name="name" label="Its name" maxLength={120} className="w-48" />
          <SelectField form={form} name="stationId" label="Where" read={idOrNone}>
            <option value="">everywhere</option>
            {stations.map((station) => (
              <option key={station.id} value={station.id}>
                {station.name}
              </option>
            ))}
          </SelectField>
          <button
            type="submit"
            className="btn btn-outline"
            disabled={form.formState.isSubmitting || !on || !name?.trim()}
          >
            Add the holiday
          </button>
          <FormProblem form={form} />
        </form>
      </section>
    </Awake>
  );
}
