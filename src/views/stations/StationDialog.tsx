import { useId } from 'react';
import { Controller, useWatch } from 'react-hook-form';
import type { StationLine } from '../../core/people/person.ts';
import { zoneWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { ZoneField } from '../../ui/ZoneField.tsx';

/** A station to be made, or one to be changed. */
export function StationDialog({
  station,
  zone: preset,
  onClose,
  onDone,
}: {
  /** Null for a new one. */
  station: StationLine | null;
  zone: string;
  onClose: () => void;
  onDone: (stations: StationLine[], said: string) => void;
}) {
  const id = useId();
  const form = useServerForm({
    values: { name: station?.name ?? '', zone: station?.zone ?? preset, takesPeople: true },
    send: async ({ name, zone, takesPeople }) => {
      const stations = station
        ? await request('PUT', `/api/stations/${station.id}`, {
            name,
            zone,
            takesPeople: moves && takesPeople,
          })
        : await request('POST', '/api/stations', { name, zone });
      onDone(stations, station ? `${name} is changed.` : `${name} is made.`);
    },
  });
  const { name, zone } = useWatch({ control: form.control });
  const moves = station !== null && station.zone !== zone && station.byItsClock > 0;
  return (
    <Dialog
      open
      title={station ? `Change ${station.name}` : 'Make a station'}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            {station ? 'Keep it as it is' : 'Make none'}
          </button>
          <button
            form={id}
            className="btn btn-primary"
            disabled={form.formState.isSubmitting || (name ?? '').trim() === ''}
          >
            {station ? 'Change it' : 'Make it'}
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        <TextField form={form} name="name" label="Name" maxLength={120} />
        <Controller
          control={form.control}
          name="zone"
          render={({ field }) => (
            <ZoneField label="Its clock" value={field.value} onChange={field.onChange} />
          )}
        />
        {moves ? (
          <label className="flex min-h-11 items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-primary" {...form.register('takesPeople')} />
            {people(station.byItsClock)} there who read by {zoneWords(station.zone)} go along
          </label>
        ) : null}
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
