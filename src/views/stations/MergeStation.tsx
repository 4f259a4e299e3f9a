import { useId } from 'react';
import type { StationLine } from '../../core/people/person.ts';
import { people } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, SelectField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';

/** With which other station one becomes one. */
export function MergeStation({
  station,
  others,
  onClose,
  onDone,
}: {
  station: StationLine;
  others: StationLine[];
  onClose: () => void;
  onDone: (stations: StationLine[], said: string) => void;
}) {
  const id = useId();
  const form = useServerForm({
    values: { into: '' },
    send: async ({ into }) => {
      const list = await request('POST', `/api/stations/${station.id}/merge`, {
        into: Number(into),
      });
      const other = others.find((each) => each.id === Number(into));
      onDone(list, `${station.name} is merged into ${other?.name ?? 'the other'}.`);
    },
  });
  return (
    <Dialog
      open
      title={`Merge ${station.name} into another station`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Keep both
          </button>
          <button form={id} className="btn btn-primary" disabled={form.formState.isSubmitting}>
            Merge them
          </button>
        </>
      }
    >
      <form id={id} className="flex flex-col gap-4" noValidate onSubmit={(event) => void form.submit(event)}>
        <SelectField form={form} name="into" label="The one that stays">
          <option value="">Choose …</option>
          {others.map((other) => (
            <option key={other.id} value={other.id}>
              {other.name}
            </option>
          ))}
        </SelectField>
        <p className="text-quiet">
          {people(station.people)} move there and go on reading by the clocks they read by. Whatever is chosen
          by {station.name} is chosen by the one that stays, and its holidays go along where that one has none
          on the day. It cannot be undone.
        </p>
        <FormProblem form={form} />
      </form>
    </Dialog>
  );
}
