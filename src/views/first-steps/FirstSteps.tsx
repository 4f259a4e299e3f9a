import { useState, type ReactNode } from 'react';
import { Controller } from 'react-hook-form';
import {
  organisationSchema,
  type FirstSteps as Steps,
  type Step,
  type StepState,
} from '../../core/first-steps/steps.ts';
import { zoneWords } from '../../core/timing/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { bySchema } from '../../ui/form/bySchema.ts';
import { FormProblem, TextField } from '../../ui/form/fields.tsx';
import { useServerForm } from '../../ui/form/useServerForm.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { ZoneField } from '../../ui/ZoneField.tsx';

const PATH = '/api/first-steps';

const TITLES: Record<Step, string> = {
  you: 'You',
  organisation: 'The organisation',
  people: 'People',
  'group and board': 'A first group and its board',
  announcement: 'A first announcement',
};

/** What is gained by each, and where it is done. */
const GAINS: Record<Step, { gain: string; links: [string, string][] }> = {
  you: {
    gain: 'Your own clock, when you are left in peace, and how you are told of what needs you.',
    links: [['/settings', 'Your settings']],
  },
  organisation: {
    gain: 'Its name stands on every page and mail; its clock is the one of whoever and whatever has none of their own.',
    links: [],
  },
  people: {
    gain: 'Whoever is in the directory can be written to at once, by inbox and mail; who is invited can answer, post and thank as well.',
    links: [
      ['/people/import', 'Import a list'],
      ['/people', 'Add or invite people'],
    ],
  },
  'group and board': {
    gain: 'A group is whom you write to again and again; by a rule it keeps itself up to date. On its board stand its news, and its members can reply.',
    links: [
      ['/groups', 'Make a group'],
      ['/boards', 'Make a board'],
    ],
  },
  announcement: {
    gain: 'Write it, choose whom and when in one sentence, rehearse it to see who gets it and when, and send.',
    links: [['/write', 'Write one']],
  },
};

const STATE: Record<StepState, { words: string; tone: string }> = {
  done: { words: 'done', tone: 'text-success' },
  'left for later': { words: 'left for later', tone: 'text-quiet' },
  'to do': { words: 'to do', tone: 'text-warning' },
};

/** What a new organisation begins with. Each step can be left for later; what is there already is done. */
export default function FirstSteps({ first }: { first: Steps }) {
  const { data: found = first, error } = useServer(PATH, { first });
  const [problem, setProblem] = useState<unknown>();
  const awake = useAwake();
  const choose = async (step: Step, later: boolean): Promise<void> => {
    setProblem(undefined);
    try {
      await request('PUT', PATH, { step, later });
      await refetch(PATH);
    } catch (failed) {
      setProblem(failed);
    }
  };
  const failed = problem ?? error;
  return (
    <>
      <h1>First steps</h1>
      <p className="mb-5 max-w-prose text-quiet">
        Five things make {found.organisation.name} ready. Take them in any order; each can be left for later,
        and this page stays here until they are done.
      </p>
      {failed ? <Notice tone="error">{wordsOf(failed)}</Notice> : null}
      <ol className="ledger">
        {found.steps.map(({ step, state }, at) => (
          <li key={step}>
            <span className="margin figure">{at + 1}</span>
            <div>
              <h2 className="text-xl">{TITLES[step]}</h2>
              <p className="mb-2 max-w-prose">{GAINS[step].gain}</p>
              {step === 'organisation' ? <Organisation found={found.organisation} /> : null}
              <p className="flex flex-wrap items-center gap-3">
                {GAINS[step].links.map(([path, words]) => (
                  <a
                    key={path}
                    className={state === 'to do' ? 'btn btn-primary' : 'btn btn-outline'}
                    href={path}
                  >
                    {words}
                  </a>
                ))}
                {state === 'done' ? null : (
                  <button
                    type="button"
                    className="btn btn-ghost"
                    disabled={!awake}
                    onClick={() => void choose(step, state === 'to do')}
                  >
                    {state === 'to do' ? 'Leave it for later' : 'Take it up again'}
                  </button>
                )}
              </p>
            </div>
            <State>{STATE[state]}</State>
          </li>
        ))}
      </ol>
      <p className="mt-6">
        <a className="link-quiet" href="/run-sheet">
          To the run sheet
        </a>
      </p>
    </>
  );
}

const State = ({ children: { words, tone } }: { children: { words: string; tone: string } }): ReactNode => (
  <span className={`state text-sm ${tone}`}>{words}</span>
);

function Organisation({ found }: { found: Steps['organisation'] }) {
  const [open, setOpen] = useState(false);
  const awake = useAwake();
  const form = useServerForm({
    values: found,
    resolver: bySchema(organisationSchema),
    send: async (given) => {
      await request('PUT', '/api/organisation-settings', given);
      setOpen(false);
      void done('The organisation is changed.');
      await refetch(PATH);
    },
  });
  if (!open)
    return (
      <p className="mb-2">
        <strong dir="auto">{found.name}</strong>, on the clock of {zoneWords(found.zone)}{' '}
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          disabled={!awake}
          onClick={() => setOpen(true)}
        >
          Change
        </button>
      </p>
    );
  return (
    <form
      className="mb-3 flex flex-wrap items-end gap-3"
      noValidate
      onSubmit={(event) => void form.submit(event)}
    >
      <TextField form={form} name="name" label="Name of the organisation" className="w-64" />
      <Controller
        control={form.control}
        name="zone"
        render={({ field }) => <ZoneField label="Its clock" value={field.value} onChange={field.onChange} />}
      />
      <button className="btn btn-primary" disabled={form.formState.isSubmitting}>
        Change it
      </button>
      <button type="button" className="btn btn-ghost" onClick={() => setOpen(false)}>
        Keep it as it is
      </button>
      <FormProblem form={form} />
    </form>
  );
}
