import { DateField } from '../../ui/DateField.tsx';
import { MOST_COUNT, WEEKDAYS, weekdayWords, type Rule, type Weekday } from '../../core/timing/rule.ts';

const WORKING: Weekday[] = ['MO', 'TU', 'WE', 'TH', 'FR'];
const POSITIONS: [number, string][] = [
  [1, 'first'],
  [2, 'second'],
  [3, 'third'],
  [4, 'fourth'],
  [5, 'fifth'],
  [-1, 'last'],
];

const weekdayOf = (wall: string): Weekday =>
  WEEKDAYS[(new Date(`${wall.slice(0, 10)}T00:00:00Z`).getUTCDay() + 6) % 7] ?? 'MO';

interface PartProps {
  /** When it comes first, as its own clock says. */
  start: string;
  onSet: (part: Partial<Rule>) => void;
}

/** Dates that are left out or come on top, each with a way to undo it. */
export function Dates({
  words,
  dates,
  onTakeOut,
}: {
  words: string;
  dates: string[];
  onTakeOut: (date: string) => void;
}) {
  if (dates.length === 0) return null;
  return (
    <div>
      <p className="text-sm text-quiet">{words}</p>
      <ul className="flex flex-wrap gap-2">
        {[...dates].sort().map((date) => (
          <li key={date} className="flex items-center border border-base-300 bg-base-200 pl-2 text-sm">
            <span className="figure">{date.replace('T', ' ')}</span>
            <button
              type="button"
              className="min-h-9 px-2 text-primary"
              aria-label={`${words} ${date.replace('T', ' ')}: undo`}
              onClick={() => onTakeOut(date)}
            >
              ×
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

function PositionFields({
  monthly,
  onSet,
}: {
  monthly: Extract<Rule['monthly'], { by: 'position' }>;
  onSet: PartProps['onSet'];
}) {
  return (
    <>
      <label className="flex flex-col gap-1">
        Which
        <select
          className="select"
          value={monthly.position}
          onChange={(event) => onSet({ monthly: { ...monthly, position: Number(event.target.value) } })}
        >
          {POSITIONS.map(([position, words]) => (
            <option key={position} value={position}>
              {words}
            </option>
          ))}
        </select>
      </label>
      <label className="flex flex-col gap-1">
        Weekday
        <select
          className="select"
          value={monthly.weekday}
          onChange={(event) =>
            onSet({
              monthly: {
                ...monthly,
                weekday: WEEKDAYS.find((each) => each === event.target.value) ?? 'MO',
              },
            })
          }
        >
          {WEEKDAYS.map((day) => (
            <option key={day} value={day}>
              {weekdayWords(day)}
            </option>
          ))}
        </select>
      </label>
    </>
  );
}

/** On which day of the month it comes. */
export function MonthFields({ monthly, start, onSet }: PartProps & { monthly: Rule['monthly'] }) {
  return (
    <>
      <label className="flex flex-col gap-1">
        On
        <select
          className="select"
          value={monthly?.by ?? 'day'}
          onChange={(event) =>
            onSet({
              monthly:
                event.target.value === 'position'
                  ? {
                      by: 'position',
                      position: Math.ceil(Number(start.slice(8, 10)) / 7),
                      weekday: weekdayOf(start),
                    }
                  : { by: 'day', day: Number(start.slice(8, 10)) },
            })
          }
        >
          <option value="day">a day of the month</option>
          <option value="position">a weekday by its place</option>
        </select>
      </label>
      {monthly?.by === 'position' ? (
        <PositionFields monthly={monthly} onSet={onSet} />
      ) : (
        <label className="flex flex-col gap-1">
          Day
          <select
            className="select"
            value={monthly?.by === 'day' ? monthly.day : 1}
            onChange={(event) => onSet({ monthly: { by: 'day', day: Number(event.target.value) } })}
          >
            {Array.from({ length: 31 }, (_, i) => (
              <option key={i} value={i + 1}>
                {i + 1}
              </option>
            ))}
            <option value={-1}>the last</option>
          </select>
        </label>
      )}
    </>
  );
}

/** On which days of the week it comes. */
export function WeekFields({ rule, start, onSet }: PartProps & { rule: Rule }) {
  const weekdays = rule.weekdays.length > 0 ? rule.weekdays : [weekdayOf(start)];
  const toggle = (day: Weekday): void => {
    const next = weekdays.includes(day) ? weekdays.filter((each) => each !== day) : [...weekdays, day];
    if (next.length > 0) onSet({ weekdays: WEEKDAYS.filter((each) => next.includes(each)) });
  };
  return (
    <fieldset className="flex flex-wrap items-center gap-x-4">
      <legend className="float-left mr-2">On</legend>
      {WEEKDAYS.map((day) => (
        <label key={day} className="flex min-h-11 cursor-pointer items-center gap-1">
          <input
            type="checkbox"
            className="checkbox checkbox-sm checkbox-primary"
            checked={weekdays.includes(day)}
            onChange={() => toggle(day)}
          />
          {weekdayWords(day)}
        </label>
      ))}
      <button type="button" className="btn btn-ghost btn-sm" onClick={() => onSet({ weekdays: WORKING })}>
        Weekdays
      </button>
    </fieldset>
  );
}

/** When it ends. */
export function EndFields({ end, start, onSet }: PartProps & { end: Rule['end'] }) {
  return (
    <div className="flex flex-wrap items-end gap-3">
      <label className="flex flex-col gap-1">
        It ends
        <select
          className="select"
          value={end.kind}
          onChange={(event) =>
            onSet({
              end:
                event.target.value === 'until'
                  ? { kind: 'until', date: start.slice(0, 10) }
                  : event.target.value === 'count'
                    ? { kind: 'count', count: 10 }
                    : { kind: 'never' },
            })
          }
        >
          <option value="never">when somebody ends it</option>
          <option value="until">after a date</option>
          <option value="count">after so many times</option>
        </select>
      </label>
      {end.kind === 'until' ? (
        <DateField
          label="Last date"
          className="w-44"
          value={end.date}
          onChange={(date) => {
            if (date !== '') onSet({ end: { kind: 'until', date } });
          }}
        />
      ) : null}
      {end.kind === 'count' ? (
        <label className="flex flex-col gap-1">
          Times
          <input
            type="number"
            className="input w-28"
            min={1}
            max={MOST_COUNT}
            value={end.count}
            onChange={(event) => {
              const count = Math.trunc(Number(event.target.value));
              if (count >= 1) onSet({ end: { kind: 'count', count } });
            }}
          />
          {end.count > MOST_COUNT ? (
            <span className="text-error">At most 10,000 times; for more, let it go on without an end.</span>
          ) : null}
        </label>
      ) : null}
    </div>
  );
}
