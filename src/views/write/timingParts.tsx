import { PASSED, type Passed } from '../../core/plan/buckets.ts';
import type { Timing } from '../../core/plan/plan.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { nearWords, timeWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { Bands, NextTen } from './Coming.tsx';
import type { Choices } from './draft.ts';
import { WallFields, ZoneField } from './MomentFields.tsx';
import { RuleFields } from './RuleFields.tsx';

type Of<Kind extends Timing['kind']> = Extract<Timing, { kind: Kind }>;

const PASSED_WORDS: Record<Passed, string> = {
  'at once': 'get it at once',
  'next day': 'get it at that hour a day later',
  not: 'do not get it',
};

/** What becomes of those for whom the hour has passed. */
export function PassedField({ passed, onChange }: { passed: Passed; onChange: (passed: Passed) => void }) {
  return (
    <label className="flex flex-col gap-1">
      Those for whom the hour has passed
      <select
        className="select"
        value={passed}
        onChange={(event) => onChange(PASSED.find((each) => each === event.target.value) ?? 'not')}
      >
        {PASSED.map((each) => (
          <option key={each} value={each}>
            {PASSED_WORDS[each]}
          </option>
        ))}
      </select>
    </label>
  );
}

/** So long before the event it goes. */
export function BeforeFields({
  timing,
  spanMs,
  zone,
  nowMs,
  onSet,
}: {
  timing: Of<'before event'>;
  /** When that is, where the announcement tells of an event. */
  spanMs: number | null;
  zone: string;
  nowMs: number;
  onSet: (timing: Timing) => void;
}) {
  return (
    <label className="flex flex-col gap-1 self-start">
      Minutes before it begins
      <input
        type="number"
        className="input w-32"
        min={0}
        max={86_400}
        value={timing.minutes}
        onChange={(event) => {
          const minutes = Math.trunc(Number(event.target.value));
          if (minutes >= 0 && minutes <= 86_400) onSet({ ...timing, minutes });
        }}
      />
      {spanMs !== null ? (
        <span className="text-quiet">
          That is <Moment at={spanMs} zone={zone} nowMs={nowMs} /> your time.
        </span>
      ) : null}
    </label>
  );
}

/** By which clock and rule it recurs, and when it comes next. */
export function RecurringFields({
  timing,
  choices,
  zone,
  forecast,
  onSet,
}: {
  timing: Of<'recurring'>;
  choices: Choices;
  zone: string;
  forecast: Forecast;
  onSet: (timing: Timing) => void;
}) {
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <WallFields wall={timing.start} onChange={(start) => onSet({ ...timing, start })} />
        <label className="flex flex-col gap-1">
          By
          <select
            className="select"
            value={timing.zone === null ? 'readers' : 'zone'}
            onChange={(event) => onSet({ ...timing, zone: event.target.value === 'readers' ? null : zone })}
          >
            <option value="zone">the clock of one zone</option>
            <option value="readers">each reader’s own clock</option>
          </select>
        </label>
        {timing.zone === null ? (
          <PassedField passed={timing.passed} onChange={(passed) => onSet({ ...timing, passed })} />
        ) : (
          <ZoneField
            zone={timing.zone}
            choices={choices}
            onChange={(next) => onSet({ ...timing, zone: next })}
          />
        )}
      </div>
      <RuleFields rule={timing.rule} start={timing.start} onChange={(rule) => onSet({ ...timing, rule })} />
      <NextTen
        forecast={forecast}
        zone={zone}
        onLeaveOut={(left) =>
          onSet({ ...timing, rule: { ...timing.rule, except: [...timing.rule.except, left.slice(0, 10)] } })
        }
      />
      {timing.zone === null ? <Bands forecast={forecast} zone={zone} /> : null}
    </>
  );
}

/** For how many it is quiet then, and when they get it. */
export function Resting({ forecast, zone, nowMs }: { forecast: Forecast; zone: string; nowMs: number }) {
  if (!forecast.resting) return null;
  return (
    <p className="text-info">
      It is quiet then for {people(forecast.resting.n)}: they get it when their quiet hours end,{' '}
      {forecast.resting.firstMs === forecast.resting.lastMs
        ? nearWords(forecast.resting.firstMs, zone, nowMs)
        : `from ${timeWords(forecast.resting.firstMs, zone)} to ${nearWords(forecast.resting.lastMs, zone, nowMs)}`}{' '}
      your time. What is urgent does not wait.
    </p>
  );
}
