import { useId, type ComponentProps, type ReactNode } from 'react';
import type { FieldValues, Path } from 'react-hook-form';
import { Notice } from '../Notice.tsx';
import type { ServerForm } from './useServerForm.ts';

interface FieldProps<T extends FieldValues> {
  form: ServerForm<T>;
  name: Path<T>;
  label: string;
  className?: string;
}

/** What every field has: its label, and what is wrong with it under it, read with it. */
function useField<T extends FieldValues>(form: ServerForm<T>, name: Path<T>) {
  const id = useId();
  const { error } = form.getFieldState(name, form.formState);
  const problem = error?.message;
  return {
    id,
    given: {
      id,
      'aria-invalid': problem !== undefined,
      'aria-describedby': problem === undefined ? undefined : `${id}-problem`,
    },
    problem:
      problem === undefined ? null : (
        <span id={`${id}-problem`} className="text-error">
          {problem}
        </span>
      ),
  };
}

const BOX = 'flex flex-col gap-1';

/** A line of text. */
export function TextField<T extends FieldValues>({
  form,
  name,
  label,
  className = '',
  ...input
}: FieldProps<T> & Pick<ComponentProps<'input'>, 'type' | 'maxLength' | 'autoComplete' | 'list'>) {
  const { id, given, problem } = useField(form, name);
  return (
    <div className={`${BOX} ${className}`}>
      <label htmlFor={id}>{label}</label>
      <input type="text" dir="auto" {...input} {...form.register(name)} {...given} className="input w-full" />
      {problem}
    </div>
  );
}

/** A whole number. */
export function NumberField<T extends FieldValues>({
  form,
  name,
  label,
  className = '',
  min,
  max,
}: FieldProps<T> & { min: number; max: number }) {
  const { id, given, problem } = useField(form, name);
  return (
    <div className={`${BOX} ${className}`}>
      <label htmlFor={id}>{label}</label>
      <input
        type="number"
        min={min}
        max={max}
        {...form.register(name, { setValueAs: asNumber })}
        {...given}
        className="input w-28"
      />
      {problem}
    </div>
  );
}

/** What was written as a number; what is none is refused by the schema. */
const asNumber = (value: unknown): number => (value === '' ? Number.NaN : Number(value));

/** Several lines of text. */
export function LinesField<T extends FieldValues>({
  form,
  name,
  label,
  className = '',
  maxLength,
}: FieldProps<T> & Pick<ComponentProps<'textarea'>, 'maxLength'>) {
  const { id, given, problem } = useField(form, name);
  return (
    <div className={`${BOX} ${className}`}>
      <label htmlFor={id}>{label}</label>
      <textarea
        dir="auto"
        maxLength={maxLength}
        {...form.register(name)}
        {...given}
        className="textarea min-h-28 w-full"
      />
      {problem}
    </div>
  );
}

/** Yes or no. */
export function CheckField<T extends FieldValues>({ form, name, label, className = '' }: FieldProps<T>) {
  const { given, problem } = useField(form, name);
  return (
    <div className={className}>
      <label className="flex min-h-10 items-center gap-2">
        <input type="checkbox" className="checkbox checkbox-primary" {...form.register(name)} {...given} />
        {label}
      </label>
      {problem}
    </div>
  );
}

/**
 * One of some options.
 *
 * @param read what is kept of the chosen option's value; the text itself where it is left out
 */
export function SelectField<T extends FieldValues>({
  form,
  name,
  label,
  className = '',
  read,
  children,
}: FieldProps<T> & { read?: (value: string) => unknown; children: ReactNode }) {
  const { id, given, problem } = useField(form, name);
  return (
    <div className={`${BOX} ${className}`}>
      <label htmlFor={id}>{label}</label>
      <select {...form.register(name, read ? { setValueAs: read } : {})} {...given} className="select w-full">
        {children}
      </select>
      {problem}
    </div>
  );
}

/** A choice of which nothing is the first: an id, or null. */
export const idOrNone = (value: unknown): number | null =>
  value === '' || value === null || value === undefined ? null : Number(value);

/** What was refused and belongs to no field. */
export function FormProblem<T extends FieldValues>({ form }: { form: ServerForm<T> }) {
  const problem = form.formState.errors.root?.message;
  return problem === undefined ? null : <Notice tone="error">{problem}</Notice>;
}
