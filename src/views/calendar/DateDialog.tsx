import { useId } from 'react';
import { Controller } from 'react-hook-form';
import type { ShownDate } from '../../core/calendar/shown.ts';
import { zoneWords } from '../../core/timing/words.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { WallFields } from '../write/MomentFields.tsx';

/** The wall-clock time of an instant in a zone, by the browser's own zone data. */
function wallOf(epochMs: number, zone: string): string {
  return new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short', timeStyle: 'short' })
    .format(epochMs)
    .replace(' ', 'T');
}

/** Changes when and where one date is, without the others of its session. */
export function DateDialog({
  date,
  onClose,
  onDone,
}: {
  date: ShownDate;
  onClose: () => void;
  onDone: () => void;
}) {
  const id = useId();
  const form = useServerForm({
    values: {
      wall: wallOf(date.startMs, date.zone),
      // What is written into the field is text.
      minutes: String(date.minutes),
      place: date.place,
      link: date.link,
      note: date.note,
    },
    send: async (given) => {
      await request('PUT', `/api/calendar/dates/${date.id}`, { ...given, minutes: Number(given.minutes) });
      onDone();
    },
  });
  const wallProblem = form.formState.errors.wall?.message;
  return (
    <Dialog
      open
      title={`Move this date of ${date.title}`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Keep it as it is
          </button>
          <button form={id} className="btn btn-primary" disabled={form.formState.isSubmitting}>
            Change it
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        <p>
          Only this date, on the clock of {zoneWords(date.zone)}. What was said of it stays, and those it is
          for are told.
        </p>
        <div className="flex flex-wrap items-end gap-3">
          <Controller
            control={form.control}
            name="wall"
            render={({ field }) => <WallFields wall={field.value} onChange={field.onChange} />}
          />
          <TextField form={form} name="minutes" label="Minutes" type="number" className="w-28" />
        </div>
        {wallProblem === undefined ? null : <p className="text-error">{wallProblem}</p>}
        <TextField form={form} name="place" label="Place" maxLength={200} />
        <TextField form={form} name="link" label="Or an address to join by" maxLength={2000} />
        <TextField form={form} name="note" label="A word to those who come" maxLength={300} />
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
