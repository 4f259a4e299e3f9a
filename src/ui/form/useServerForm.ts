import { useEffect, type BaseSyntheticEvent } from 'react';
import {
  useForm,
  type DefaultValues,
  type FieldValues,
  type Path,
  type Resolver,
  type UseFormReturn,
} from 'react-hook-form';
import { ApiProblem, wordsOf } from '../api.ts';

export interface ServerForm<T extends FieldValues> extends UseFormReturn<T> {
  /** Checks what was filled in and sends it. */
  submit: (event?: BaseSyntheticEvent) => Promise<void>;
  /**
   * Does something else with what was filled in, such as trying it: what is refused stands at its field likewise.
   *
   * @param within the field whose parts the endpoint names, where it takes them by themselves
   */
  attempt: (work: () => Promise<unknown>, within?: Path<T>) => Promise<void>;
}

/** Whether a value has fields of its own: what has names does, and a list of such; not a list of plain values. */
const hasFields = (value: unknown): value is object =>
  Array.isArray(value) ? value.some(hasFields) : value !== null && typeof value === 'object';

/** The paths of all fields, those within others before these. */
const pathsOf = (values: object, before = ''): string[] =>
  Object.entries(values).flatMap(([name, value]: [string, unknown]) => [
    ...(hasFields(value) ? pathsOf(value, `${before}${name}.`) : []),
    `${before}${name}`,
  ]);

/**
 * A form whose answer comes from an endpoint. What the endpoint refuses stands at the field it names, and what belongs to no
 * field under `root`; what was filled in stays. Leaving the page with something unsent asks first.
 *
 * @param options.values what the fields begin with
 * @param options.resolver checks before anything is sent: `bySchema` with the schema of the endpoint
 * @param options.send sends it; a refusal is thrown as `ApiProblem`
 * @param options.shown the fields that tell what is wrong with them, where not all do: what is wrong with another stands
 *   under `root`
 * @param options.within the field whose parts the endpoint names, where it names them by themselves
 */
export function useServerForm<T extends FieldValues>(options: {
  values: DefaultValues<T>;
  resolver?: Resolver<T>;
  send: (given: T) => Promise<unknown>;
  shown?: readonly Path<T>[];
  within?: Path<T>;
}): ServerForm<T> {
  const { values, resolver, send, shown } = options;
  const form = useForm<T>({ defaultValues: values, ...(resolver ? { resolver } : {}) });
  const { isDirty, isSubmitSuccessful } = form.formState;
  useEffect(() => {
    if (!isDirty || isSubmitSuccessful) return undefined;
    const ask = (event: BeforeUnloadEvent): void => event.preventDefault();
    addEventListener('beforeunload', ask);
    return () => removeEventListener('beforeunload', ask);
  }, [isDirty, isSubmitSuccessful]);
  const refused = (problem: unknown, within?: Path<T>): void => {
    // Also of what was begun empty and filled in since.
    const fields = shown ?? ([...pathsOf(form.getValues()), ...pathsOf(values)] as Path<T>[]);
    const errors = problem instanceof ApiProblem ? problem.errors : [];
    const told = new Set<Path<T>>();
    for (const { field, detail } of errors) {
      const name = [...(within === undefined ? [] : [`${within}.${field}`]), field].flatMap(
        (path) => fields.find((each) => path === each || path.startsWith(`${each}.`)) ?? [],
      )[0];
      // What is wrong with a field is told one thing at a time, the first first.
      if (name === undefined || told.has(name)) continue;
      form.setError(name, { message: detail }, { shouldFocus: told.size === 0 });
      told.add(name);
    }
    if (told.size === 0) form.setError('root', { message: errors[0]?.detail ?? wordsOf(problem) });
  };
  const checked = form.handleSubmit(async (given) => {
    try {
      await send(given);
    } catch (problem) {
      refused(problem, options.within);
    }
  });
  const submit = (event?: BaseSyntheticEvent): Promise<void> => {
    // What was refused before is asked anew; of a field that is no input of its own it would stand in the way.
    form.clearErrors();
    return checked(event);
  };
  const attempt = async (work: () => Promise<unknown>, within?: Path<T>): Promise<void> => {
    form.clearErrors();
    try {
      await work();
    } catch (problem) {
      refused(problem, within);
    }
  };
  return { ...form, submit, attempt };
}
