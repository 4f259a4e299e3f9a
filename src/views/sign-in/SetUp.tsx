import { useState, type SubmitEvent } from 'react';
import { ApiProblem, ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';

const FIELDS = [
  { name: 'organisation', label: 'Name of the organisation', type: 'text', autoComplete: 'organization' },
  { name: 'name', label: 'Your name', type: 'text', autoComplete: 'name' },
  { name: 'mail', label: 'Your mail address', type: 'email', autoComplete: 'email' },
  {
    name: 'password',
    label: 'A password, at least 12 characters',
    type: 'password',
    autoComplete: 'new-password',
  },
] as const;

/** Makes the organisation and its first coordinator, in an empty database. */
export default function SetUp({ zones }: { zones: string[] }) {
  const [problem, setProblem] = useState<ApiProblem | Error>();
  const [busy, setBusy] = useState(false);
  const submit = async (event: SubmitEvent<HTMLFormElement>): Promise<void> => {
    event.preventDefault();
    setBusy(true);
    setProblem(undefined);
    try {
      await ask('POST', '/api/setup', Object.fromEntries(new FormData(event.currentTarget)));
      location.assign('/run-sheet');
    } catch (error) {
      setProblem(error instanceof Error ? error : new Error(wordsOf(error)));
      setBusy(false);
    }
  };
  const about = (field: string): string | undefined =>
    problem instanceof ApiProblem ? problem.about(field) : undefined;

  return (
    <form
      onSubmit={(event) => void submit(event)}
      noValidate
      method="post"
      className="flex max-w-md flex-col gap-4"
    >
      {FIELDS.map((field) => (
        <label key={field.name} className="flex flex-col gap-1">
          {field.label}
          <input
            name={field.name}
            type={field.type}
            autoComplete={field.autoComplete}
            className="input w-full"
            aria-invalid={about(field.name) !== undefined}
          />
          {about(field.name) === undefined ? null : <span className="text-error">{about(field.name)}</span>}
        </label>
      ))}
      <label className="flex flex-col gap-1">
        Time zone of the organisation
        <select
          name="zone"
          className="select w-full"
          defaultValue={
            typeof window === 'undefined' ? 'UTC' : Intl.DateTimeFormat().resolvedOptions().timeZone
          }
          suppressHydrationWarning
        >
          {zones.map((zone) => (
            <option key={zone}>{zone}</option>
          ))}
        </select>
      </label>
      {problem && !(problem instanceof ApiProblem && problem.errors.length > 0) ? (
        <Notice tone="error">{problem.message}</Notice>
      ) : null}
      <button className="btn btn-primary" disabled={busy}>
        Set up Clear Bell
      </button>
    </form>
  );
}
