import { useState } from 'react';
import { Controller } from 'react-hook-form';
import { request } from '../../api.ts';
import { DateTimeField } from '../../DateField.tsx';
import { FormProblem, TextField } from '../../form/fields.tsx';
import { useServerForm } from '../../form/useServerForm.ts';

interface Adding {
  id: number;
  dates: boolean;
  zone: string;
  onAdded: () => void;
}

function OptionForm({ id, dates, zone, onAdded }: Adding) {
  const form = useServerForm({
    values: { label: '', at: '' },
    send: async ({ label, at }) => {
      await request('POST', `/api/asks/${id}/options`, {
        label,
        at: dates && at !== '' ? { wall: at, zone } : null,
      });
      onAdded();
    },
  });
  const { errors, isSubmitting } = form.formState;
  return (
    <form
      className="mt-4 flex flex-wrap items-end gap-2 border-t border-base-300 pt-3"
      onSubmit={(event) => void form.submit(event)}
      noValidate
    >
      {dates ? (
        <div>
          <Controller
            control={form.control}
            name="at"
            render={({ field: { value, onChange } }) => (
              <DateTimeField
                label="Another date, in your time"
                className="w-64"
                value={value}
                onChange={onChange}
              />
            )}
          />
          {errors.at === undefined ? null : (
            <span role="alert" className="text-error">
              {errors.at.message}
            </span>
          )}
        </div>
      ) : (
        <TextField
          form={form}
          name="label"
          label="Another option"
          className="min-w-0 flex-1"
          maxLength={160}
        />
      )}
      <button type="submit" className="btn btn-outline" disabled={isSubmitting}>
        Add it
      </button>
      <FormProblem form={form} />
    </form>
  );
}

/** A place to add an option to a poll that has gone out, for its author and for readers where they may; a date as a date. */
export function AddOption({ onAdded, ...adding }: Adding) {
  const [added, setAdded] = useState(0);
  return (
    <OptionForm
      key={added}
      {...adding}
      onAdded={() => {
        setAdded(added + 1);
        onAdded();
      }}
    />
  );
}
