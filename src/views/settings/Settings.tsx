import { useState } from 'react';
import { TimeField } from '../../ui/DateField.tsx';
import type { Holiday, Working } from '../../core/people/working.ts';
import type { Quiet } from '../../core/timing/quiet.ts';
import { ApiProblem, ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { done } from '../../ui/toast.ts';
import { BundlingSettings, type BundlingChosen } from './BundlingSettings.tsx';
import { Holidays } from './Holidays.tsx';
import { NoticeSettings } from './NoticeSettings.tsx';
import { PasswordSettings } from './PasswordSettings.tsx';
import { Sessions } from './Sessions.tsx';
import { WorkSettings } from './WorkSettings.tsx';

type Choice = 'as all' | 'none' | 'own';

const NIGHT: Quiet = { from: '21:00', to: '07:00' };
const words = (quiet: Quiet | null): string =>
  !quiet || quiet.from === quiet.to ? 'none' : `from ${quiet.from} to ${quiet.to}`;

function Hours({ quiet, onChange }: { quiet: Quiet; onChange: (quiet: Quiet) => void }) {
  return (
    <div className="flex flex-wrap gap-3">
      <TimeField
        label="From"
        className="w-32"
        value={quiet.from}
        onChange={(from) => {
          if (from !== '') onChange({ ...quiet, from });
        }}
      />
      <TimeField
        label="To"
        className="w-32"
        value={quiet.to}
        onChange={(to) => {
          if (to !== '') onChange({ ...quiet, to });
        }}
      />
    </div>
  );
}

/** When a person is left in peace; for coordinators also when everybody is; and the feed of what is planned. */
export default function Settings({
  own,
  ofAll,
  mayForAll,
  desk,
  told,
  bundling,
  pushKey,
  practice,
  zone,
  works,
  holidays,
  stations,
  password,
  mail,
}: {
  own: Quiet | null;
  ofAll: Quiet | null;
  mayForAll: boolean;
  desk: boolean;
  told: Parameters<typeof NoticeSettings>[0]['first'];
  bundling: BundlingChosen;
  pushKey: string;
  practice: boolean;
  zone: string;
  works: Working;
  holidays: Holiday[];
  stations: { id: number; name: string }[];
  /** Whether they have a password. */
  password: boolean;
  mail: string;
}) {
  const awake = useAwake();
  const [choice, setChoice] = useState<Choice>(
    own === null ? 'as all' : own.from === own.to ? 'none' : 'own',
  );
  const [hours, setHours] = useState<Quiet>(own && own.from !== own.to ? own : NIGHT);
  const [all, setAll] = useState<Quiet | null>(ofAll);
  const [error, setError] = useState<string>();
  const [feed, setFeed] = useState<string>();
  const act = async (work: () => Promise<void>, words: string): Promise<void> => {
    setError(undefined);
    try {
      await work();
      void done(words);
    } catch (problem) {
      setError(
        problem instanceof ApiProblem ? (problem.errors[0]?.detail ?? problem.message) : wordsOf(problem),
      );
    }
  };
  const quiet = choice === 'as all' ? null : choice === 'none' ? { from: '00:00', to: '00:00' } : hours;
  return (
    <fieldset disabled={!awake} className="contents">
      <h1 className="mb-6">Settings</h1>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <section className="mb-10 max-w-2xl" aria-labelledby="mine">
        <h2 id="mine" className="mb-2">
          Your quiet hours
        </h2>
        <p className="mb-3 text-quiet">
          In your quiet hours nothing reaches you but what is urgent. The rest comes when they end, on your
          own clock.
        </p>
        {(
          [
            ['as all', `As everybody: ${words(ofAll)}`],
            ['own', 'My own hours'],
            ['none', 'None: everything as it comes'],
          ] as const
        ).map(([value, label]) => (
          <label key={value} className="flex min-h-11 cursor-pointer items-center gap-2">
            <input
              type="radio"
              name="quiet"
              className="radio radio-primary"
              checked={choice === value}
              onChange={() => setChoice(value)}
            />
            {label}
          </label>
        ))}
        {choice === 'own' ? <Hours quiet={hours} onChange={setHours} /> : null}
        <button
          type="button"
          className="btn btn-primary mt-3"
          onClick={() =>
            void act(() => ask('PUT', '/api/me/quiet', { quiet }), 'Your quiet hours are saved.')
          }
        >
          Save my quiet hours
        </button>
      </section>
      <BundlingSettings first={bundling} mayForAll={mayForAll} />
      <WorkSettings first={works} />
      <PasswordSettings has={password} mail={mail} />
      <Sessions zone={zone} />
      {mayForAll ? (
        <p className="mb-10 max-w-2xl">
          The name of the organisation and its clock are changed under{' '}
          <a className="link-quiet" href="/first-steps">
            First steps
          </a>
          .
        </p>
      ) : null}
      {mayForAll ? <Holidays first={holidays} stations={stations} /> : null}
      {mayForAll ? (
        <section className="mb-10 max-w-2xl" aria-labelledby="all">
          <h2 id="all" className="mb-2">
            Quiet hours of everybody
          </h2>
          <p className="mb-3 text-quiet">
            They hold, on each reader’s clock, for whoever has not chosen their own.
          </p>
          <label className="flex min-h-11 cursor-pointer items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={all !== null}
              onChange={(event) => setAll(event.target.checked ? NIGHT : null)}
            />
            Everybody has quiet hours
          </label>
          {all ? <Hours quiet={all} onChange={setAll} /> : null}
          <button
            type="button"
            className="btn btn-primary mt-3"
            onClick={() =>
              void act(
                () => ask('PUT', '/api/house/quiet', { quiet: all }),
                'The quiet hours of everybody are saved.',
              )
            }
          >
            Save for everybody
          </button>
        </section>
      ) : null}
      {desk ? (
        <section className="max-w-2xl" aria-labelledby="feed">
          <h2 id="feed" className="mb-2">
            What is planned, in your calendar
          </h2>
          <p className="mb-3 text-quiet">
            A secret address from which a calendar program reads what goes out, a month back and three weeks
            ahead. A new one ends the old.
          </p>
          {feed === undefined ? null : (
            <p className="mb-3 border border-base-300 bg-base-100 p-3 font-mono text-sm break-all">{feed}</p>
          )}
          <button
            type="button"
            className="btn btn-outline"
            onClick={() =>
              void act(async () => {
                setFeed((await ask<{ url: string }>('POST', '/api/me/calendar')).url);
              }, 'It is shown this once. Keep it as you would a password.')
            }
          >
            Make a new address
          </button>
        </section>
      ) : null}
      <NoticeSettings first={told} pushKey={pushKey} practice={practice} zone={zone} />
    </fieldset>
  );
}
