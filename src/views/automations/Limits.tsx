import type { Automation } from '../../core/automation/automation.ts';
import { DateField } from '../../ui/DateField.tsx';

/** How much it may say at most, how late, and from when until when. */
export function Limits({
  automation,
  onChange,
}: {
  automation: Automation;
  onChange: (part: Partial<Automation>) => void;
}) {
  const whole = (text: string, least: number, most: number): number | null => {
    const n = Math.trunc(Number(text));
    return n >= least && n <= most ? n : null;
  };
  return (
    <fieldset className="border-t border-base-300 pt-3">
      <legend className="font-semibold">Its limits</legend>
      <div className="flex flex-wrap items-end gap-3">
        <label className="flex flex-col gap-1">
          Messages an hour at most
          <input
            type="number"
            className="input w-32"
            min={1}
            max={5000}
            value={automation.ceiling}
            onChange={(event) => {
              const n = whole(event.target.value, 1, 5000);
              if (n !== null) onChange({ ceiling: n });
            }}
          />
        </label>
        <label className="flex flex-col gap-1">
          Too late to say after
          <select
            className="select"
            value={automation.lapseMinutes ?? ''}
            onChange={(event) =>
              onChange({ lapseMinutes: event.target.value === '' ? null : Number(event.target.value) })
            }
          >
            {[
              [15, '15 minutes'],
              [60, 'an hour'],
              [240, '4 hours'],
              [720, '12 hours'],
              [1440, 'a day'],
              [10_080, 'a week'],
            ].map(([minutes, words]) => (
              <option key={minutes} value={minutes}>
                {words}
              </option>
            ))}
            <option value="">never: it is said however late</option>
          </select>
        </label>
        <DateField
          label="First day, if any"
          className="w-44"
          value={automation.from ?? ''}
          onChange={(from) => onChange({ from: from === '' ? null : from })}
        />
        <DateField
          label="Last day, if any"
          className="w-44"
          value={automation.until ?? ''}
          onChange={(until) => onChange({ until: until === '' ? null : until })}
        />
      </div>
      <p className="mt-1 text-sm text-quiet">
        Past its ceiling, or after three runs that failed one after another, it pauses and tells whoever looks
        after it.
      </p>
    </fieldset>
  );
}
