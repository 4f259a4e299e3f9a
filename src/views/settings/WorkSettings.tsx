import { useState } from 'react';
import { Awake } from '../../ui/Awake.tsx';
import { awaySchema, type Working } from '../../core/people/working.ts';
import { dateWords } from '../../core/timing/words.ts';
import { request, exactWordsOf } from '../../ui/api.ts';
import { bySchema } from '../../ui/form/bySchema.ts';
import { DayField } from '../../ui/form/DayField.tsx';
import { FormProblem } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, setServer, useServer } from '../../ui/server.ts';

const PATH = '/api/me/working';
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const date = (on: string): string => dateWords(Date.parse(`${on}T12:00:00Z`), 'UTC');

/** Days away to be noted; one day where no last day is given. */
function AwayForm() {
  const form = useServerForm({
    values: { from: '', to: '' },
    resolver: bySchema(awaySchema),
    send: async ({ from, to }) => {
      await request('POST', '/api/me/absences', { from, to: to || from });
      form.reset();
      await refetch(PATH);
    },
  });
  return (
    <form
      className="mt-2 flex flex-wrap items-start gap-3"
      noValidate
      onSubmit={(event) => void form.submit(event)}
    >
      <DayField form={form} name="from" label="First day away" className="w-44" />
      <DayField form={form} name="to" label="Last day away" className="w-44" />
      <button type="submit" className="btn btn-outline mt-7" disabled={form.formState.isSubmitting}>
        I am away then
      </button>
      <FormProblem form={form} />
    </form>
  );
}

/** The days one works and when one is away: check-ins are asked on working days only. */
export function WorkSettings({ first }: { first: Working }) {
  const { data: works = first } = useServer(PATH, { first });
  const [error, setError] = useState<string>();
  const act = async (work: () => Promise<unknown>): Promise<boolean> => {
    setError(undefined);
    try {
      await work();
      return true;
    } catch (problem) {
      setError(exactWordsOf(problem));
      return false;
    } finally {
      await refetch(PATH);
    }
  };
  return (
    <Awake>
      <section className="mb-10 max-w-2xl" aria-labelledby="works">
        <h2 id="works" className="mb-2">
          Your working days
        </h2>
        <p className="mb-3 text-quiet">
          Check-ins are asked on your working days only, and not while you are away.
        </p>
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        <fieldset>
          <legend className="sr-only">Days you work</legend>
          <div className="flex flex-wrap gap-x-5">
            {DAYS.map((name, i) => (
              <label key={name} className="flex min-h-11 cursor-pointer items-center gap-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-primary"
                  checked={works.workDays.includes(i + 1)}
                  onChange={(event) => {
                    const workDays = event.target.checked
                      ? [...works.workDays, i + 1].sort()
                      : works.workDays.filter((day) => day !== i + 1);
                    // Shown at once; where it is refused, what the server has is shown again.
                    void act(async () => {
                      await setServer(PATH, { ...works, workDays });
                      await request('PUT', PATH, { workDays });
                    });
                  }}
                />
                {name}
              </label>
            ))}
          </div>
        </fieldset>
        <h3 className="mt-3 text-lg">Away</h3>
        {works.absences.length === 0 ? <p className="text-quiet">No days away are noted.</p> : null}
        <ul>
          {works.absences.map((absence) => (
            <li key={absence.id} className="flex min-h-11 items-center gap-3 border-t border-base-300">
              <span className="flex-1">
                {absence.from === absence.to
                  ? date(absence.from)
                  : `${date(absence.from)} to ${date(absence.to)}`}
              </span>
              <button
                type="button"
                className="btn btn-outline"
                aria-label={`Take out the days from ${date(absence.from)}`}
                onClick={() => void act(() => request('DELETE', `/api/me/absences/${absence.id}`))}
              >
                Take out
              </button>
            </li>
          ))}
        </ul>
        <AwayForm />
      </section>
    </Awake>
  );
}
