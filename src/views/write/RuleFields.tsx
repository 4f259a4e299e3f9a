import { useState } from 'react';
import type { Rule } from '../../core/timing/rule.ts';
import { WallFields } from './MomentFields.tsx';
import { Dates, EndFields, MonthFields, WeekFields } from './ruleParts.tsx';

const FREQ_UNITS = { daily: 'days', weekly: 'weeks', monthly: 'months', yearly: 'years' } as const;
/** How something recurs, in the parts of an RFC 5545 rule. */
export function RuleFields({
  rule,
  start,
  onChange,
}: {
  rule: Rule;
  start: string;
  onChange: (rule: Rule) => void;
}) {
  const [added, setAdded] = useState(start);
  const set = (part: Partial<Rule>): void => onChange({ ...rule, ...part });
  const { monthly, end } = rule;
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-end gap-3">
        <label className="flex flex-col gap-1">
          It comes
          <select
            className="select"
            value={rule.freq}
            onChange={(event) => {
              const freq = event.target.value as Rule['freq'];
              set({
                freq,
                weekdays: freq === 'weekly' ? rule.weekdays : [],
                monthly: freq === 'monthly' ? { by: 'day', day: Number(start.slice(8, 10)) } : null,
              });
            }}
          >
            <option value="daily">by the day</option>
            <option value="weekly">by the week</option>
            <option value="monthly">by the month</option>
            <option value="yearly">by the year</option>
          </select>
        </label>
        <label className="flex flex-col gap-1">
          Every how many {FREQ_UNITS[rule.freq]}
          <input
            type="number"
            className="input w-24"
            min={1}
            max={1000}
            value={rule.every}
            onChange={(event) => {
              const n = Math.trunc(Number(event.target.value));
              if (n >= 1 && n <= 1000) set({ every: n });
            }}
          />
        </label>
        {rule.freq === 'monthly' ? <MonthFields monthly={monthly} start={start} onSet={set} /> : null}
      </div>
      {rule.freq === 'monthly' && monthly?.by === 'day' && monthly.day > 28 ? (
        <p className="text-info">
          Months without a day {monthly.day} are passed over. For the end of every month choose the last day.
        </p>
      ) : null}
      {rule.freq === 'weekly' ? <WeekFields rule={rule} start={start} onSet={set} /> : null}
      <EndFields end={end} start={start} onSet={set} />
      <Dates
        words="Left out"
        dates={rule.except}
        onTakeOut={(date) => set({ except: rule.except.filter((each) => each !== date) })}
      />
      <Dates
        words="On top"
        dates={rule.added}
        onTakeOut={(date) => set({ added: rule.added.filter((each) => each !== date) })}
      />
      <details>
        <summary className="min-h-9 cursor-pointer link-quiet">Add a date on top of the rule</summary>
        <div className="flex flex-wrap items-end gap-3">
          <WallFields wall={added} onChange={setAdded} />
          <button
            type="button"
            className="btn btn-outline"
            onClick={() => set({ added: [...new Set([...rule.added, added])] })}
          >
            Add this date
          </button>
        </div>
      </details>
    </div>
  );
}
