import { useState } from 'react';
import type { Quiet } from '../../core/timing/quiet.ts';
import { request } from '../../ui/api.ts';
import { Awake } from '../../ui/Awake.tsx';
import { TimeField } from '../../ui/DateField.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';

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

/** When a person is left in peace, on their own clock. */
export function OwnQuietHours({ own, ofAll }: { own: Quiet | null; ofAll: Quiet | null }) {
  const [choice, setChoice] = useState<Choice>(
    own === null ? 'as all' : own.from === own.to ? 'none' : 'own',
  );
  const [hours, setHours] = useState<Quiet>(own && own.from !== own.to ? own : NIGHT);
  const { busy, error, act } = useActs();
  const quiet = choice === 'as all' ? null : choice === 'none' ? { from: '00:00', to: '00:00' } : hours;
  return (
    <Awake>
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
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        <button
          type="button"
          className="btn btn-primary mt-3"
          disabled={busy}
          onClick={act(async () => {
            await request('PUT', '/api/me/quiet', { quiet });
            void done('Your quiet hours are saved.');
          })}
        >
          Save my quiet hours
        </button>
      </section>
    </Awake>
  );
}

/** When everybody is left in peace who has not chosen for themselves; for whoever looks after the organisation. */
export function QuietHoursOfAll({ ofAll }: { ofAll: Quiet | null }) {
  const [all, setAll] = useState<Quiet | null>(ofAll);
  const { busy, error, act } = useActs();
  return (
    <Awake>
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
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        <button
          type="button"
          className="btn btn-primary mt-3"
          disabled={busy}
          onClick={act(async () => {
            await request('PUT', '/api/organisation-settings/quiet', { quiet: all });
            void done('The quiet hours of everybody are saved.');
          })}
        >
          Save for everybody
        </button>
      </section>
    </Awake>
  );
}
