import type { FieldValues, Path } from 'react-hook-form';
import { TextField } from './fields.tsx';
import type { ServerForm } from './useServerForm.ts';

/** The header a secret is sent in, and the secret, which is kept sealed and never shown again. */
export function SecretFields<T extends FieldValues>({
  form,
  header,
  secret,
  kept,
}: {
  form: ServerForm<T>;
  header: Path<T>;
  secret: Path<T>;
  /** Whether one is kept already. */
  kept: boolean;
}) {
  return (
    <div className="flex flex-wrap gap-2">
      <TextField
        form={form}
        name={header}
        label="Header of its secret, if any"
        maxLength={60}
        className="w-56"
      />
      <TextField
        form={form}
        name={secret}
        type="password"
        autoComplete="off"
        label={`Secret${kept ? ' (one is kept; write another to change it)' : ''}`}
        maxLength={500}
        className="grow"
      />
    </div>
  );
}
