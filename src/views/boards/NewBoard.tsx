import { useId } from 'react';
import { PRESETS, PURPOSES, type Purpose } from '../../core/boards/switches.ts';
import { request } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormProblem, idOrNone, SelectField, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';

export interface Group {
  id: number;
  name: string;
  kind: 'live' | 'fixed';
}

interface Given {
  purpose: Purpose;
  name: string;
  about: string;
  groupId: number | null;
}

/** A board to be made, by what it is for: from that follow its switches. */
export function NewBoard({ groups, onClose }: { groups: readonly Group[]; onClose: () => void }) {
  const id = useId();
  const form = useServerForm<Given>({
    values: { purpose: 'to read', name: '', about: '', groupId: null },
    send: async (given) => {
      const made = await request('POST', '/api/boards', given);
      form.reset(given);
      location.assign(`/boards/${made.id}`);
    },
  });
  return (
    <Dialog
      open
      title="A new board"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button form={id} className="btn btn-primary" disabled={form.formState.isSubmitting}>
            Make the board
          </button>
        </>
      }
    >
      <form id={id} noValidate onSubmit={(event) => void form.submit(event)}>
        <fieldset className="mb-3">
          <legend className="mb-1 font-semibold">What it is for</legend>
          {PURPOSES.map((each) => (
            <label key={each} className="flex min-h-11 cursor-pointer items-start gap-2 py-1.5">
              <input
                type="radio"
                value={each}
                className="radio radio-primary"
                {...form.register('purpose')}
              />
              <span>{PRESETS[each].words}</span>
            </label>
          ))}
        </fieldset>
        <div className="flex flex-col gap-3">
          <TextField form={form} name="name" label="Name" maxLength={120} />
          <TextField
            form={form}
            name="about"
            label="In a sentence, so that nobody asks why they are here"
            maxLength={600}
          />
          <SelectField form={form} name="groupId" label="Whose place it is" read={idOrNone}>
            <option value="">everybody</option>
            {groups.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name} ({each.kind === 'live' ? 'live: follows its rule' : 'fixed: hand-picked'})
              </option>
            ))}
          </SelectField>
        </div>
        <FormProblem form={form} />
        <p className="mt-3 text-sm text-quiet">
          You own it and moderate it. All of this can be adjusted later.
        </p>
      </form>
    </Dialog>
  );
}
