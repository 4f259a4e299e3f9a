import { Controller, type FieldPath, type FieldValues } from 'react-hook-form';
import { DateField } from '../DateField.tsx';
import type { ServerForm } from './useServerForm.ts';

/** A field for a date (YYYY-MM-DD), empty for none, with what is wrong with it. */
export function DayField<T extends FieldValues>({
  form,
  name,
  label,
  className = '',
}: {
  form: ServerForm<T>;
  name: FieldPath<T>;
  label: string;
  className?: string;
}) {
  return (
    <Controller
      control={form.control}
      name={name}
      render={({ field: { value, onChange }, fieldState: { error } }) => (
        <div className={className}>
          <DateField label={label} value={value ?? ''} onChange={(date) => onChange(date)} />
          {error?.message === undefined ? null : (
            <span role="alert" className="text-error">
              {error.message}
            </span>
          )}
        </div>
      )}
    />
  );
}
