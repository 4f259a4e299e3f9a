import { useState } from 'react';
import { audienceOf, choicesOf } from '../../core/audience/choices.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { Moment } from '../../core/timing/wallTime.ts';
import { momentWords } from '../../core/timing/words.ts';
import type { Choices } from './draft.ts';

interface PanelProps {
  plan: Plan;
  choices: Choices;
  zone: string;
  nowMs: number;
  onChange: (plan: Plan) => void;
}

type Side = 'in' | 'out' | 'neither';

/** Groups in and out. A group is in, left out, or neither. */
export function WhomPanel({ plan, choices, onChange }: PanelProps) {
  const [filter, setFilter] = useState('');
  const chosen = choicesOf(plan.audience);
  // What is chosen already stands first; the order then stays, so that nothing moves under the pointer.
  const [ordered] = useState(() => {
    const named = new Set([...(chosen?.include ?? []), ...(chosen?.exclude ?? [])]);
    return [
      ...choices.groups.filter((group) => named.has(group.id)),
      ...choices.groups.filter((group) => !named.has(group.id)),
    ];
  });
  if (!chosen) return <p>This audience was written in another way and can only be replaced by a new one.</p>;
  const { everyone, include, exclude } = chosen;
  const set = (next: typeof chosen): void => onChange({ ...plan, audience: audienceOf(next) });
  const place = (id: number, side: Side): void =>
    set({
      everyone,
      include:
        side === 'in'
          ? [...include.filter((each) => each !== id), id]
          : include.filter((each) => each !== id),
      exclude:
        side === 'out'
          ? [...exclude.filter((each) => each !== id), id]
          : exclude.filter((each) => each !== id),
    });
  const shown = ordered.filter((group) => group.name.toLowerCase().includes(filter.trim().toLowerCase()));
  return (
    <div>
      <div className="mb-2 flex flex-wrap items-center gap-x-6 gap-y-2">
        <label className="flex min-h-11 cursor-pointer items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary"
            checked={everyone}
            disabled={!choices.mayEveryone && !everyone}
            onChange={(event) => set({ everyone: event.target.checked, include: [], exclude })}
          />
          Everyone{choices.mayEveryone ? '' : ' (only a coordinator sends to everyone)'}
        </label>
        <label className="flex items-center gap-2">
          Find a group
          <input
            type="search"
            className="input w-56"
            value={filter}
            onChange={(event) => setFilter(event.target.value)}
          />
        </label>
      </div>
      <ul className="grid max-h-72 gap-x-8 overflow-y-auto sm:grid-cols-2">
        {shown.map((group) => {
          const side: Side = include.includes(group.id)
            ? 'in'
            : exclude.includes(group.id)
              ? 'out'
              : 'neither';
          return (
            <li key={group.id}>
              <fieldset className="flex min-h-11 items-center justify-between gap-3 border-t border-base-300">
                <legend className="float-left">
                  {group.name} <span className="text-sm text-quiet">{group.kind}</span>
                </legend>
                <span className="flex gap-3">
                  {(['in', 'out', 'neither'] as const).map((each) => (
                    <label key={each} className="flex min-h-11 cursor-pointer items-center gap-1 text-sm">
                      <input
                        type="radio"
                        name={`group-${group.id}`}
                        className="radio radio-sm radio-primary"
                        checked={side === each}
                        disabled={each === 'in' && everyone}
                        onChange={() => place(group.id, each)}
                      />
                      {each === 'neither' ? 'no' : each}
                    </label>
                  ))}
                </span>
              </fieldset>
            </li>
          );
        })}
      </ul>
      {choices.groups.length === 0 ? (
        <p className="text-quiet">There are no groups yet; everyone can still be reached.</p>
      ) : null}
    </div>
  );
}

/** Mail on top of the inbox, and the boards it is posted to. */
export function HowPanel({ plan, choices, onChange }: PanelProps) {
  return (
    <div className="grid gap-6 sm:grid-cols-[14rem_1fr]">
      <fieldset>
        <legend className="mb-1 font-semibold">To each person</legend>
        <p className="text-sm text-quiet">Everybody chosen gets it in the inbox.</p>
        <label className="flex min-h-11 cursor-pointer items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary"
            checked={plan.mail}
            onChange={(event) => onChange({ ...plan, mail: event.target.checked })}
          />
          and by mail
        </label>
      </fieldset>
      <fieldset>
        <legend className="mb-1 font-semibold">And on boards</legend>
        <ul className="grid max-h-64 gap-x-6 overflow-y-auto sm:grid-cols-2">
          {choices.boards.map((board) => (
            <li key={board.id}>
              <label
                className="flex min-h-11 cursor-pointer items-center gap-2"
                title={board.denied ?? undefined}
              >
                <input
                  type="checkbox"
                  className="checkbox checkbox-primary"
                  checked={plan.boards.includes(board.id)}
                  disabled={board.denied !== null && !plan.boards.includes(board.id)}
                  onChange={(event) =>
                    onChange({
                      ...plan,
                      boards: event.target.checked
                        ? [...plan.boards, board.id]
                        : plan.boards.filter((each) => each !== board.id),
                    })
                  }
                />
                {board.name}
              </label>
            </li>
          ))}
        </ul>
      </fieldset>
    </div>
  );
}

/** A date and time in a named zone. */
function MomentFields({
  moment,
  choices,
  onChange,
}: {
  moment: Moment;
  choices: Choices;
  onChange: (moment: Moment) => void;
}) {
  const [date = '', time = ''] = moment.wall.split('T');
  const set = (nextDate: string, nextTime: string): void => {
    // A field that is being cleared is no time yet; the last whole one stands until it is.
    if (/^\d{4}-\d{2}-\d{2}$/.test(nextDate) && /^\d{2}:\d{2}$/.test(nextTime))
      onChange({ ...moment, wall: `${nextDate}T${nextTime}` });
  };
  return (
    <div className="flex flex-wrap gap-3">
      <label className="flex flex-col gap-1">
        Date
        <input
          type="date"
          className="input"
          value={date}
          max="9999-12-31"
          onChange={(event) => set(event.target.value, time)}
        />
      </label>
      <label className="flex flex-col gap-1">
        Time
        <input
          type="time"
          className="input"
          value={time}
          onChange={(event) => set(date, event.target.value.slice(0, 5))}
        />
      </label>
      <label className="flex flex-col gap-1">
        Zone
        <select
          className="select"
          value={moment.zone}
          onChange={(event) => onChange({ ...moment, zone: event.target.value })}
        >
          {choices.stationZones.length > 0 ? (
            <optgroup label="Stations">
              {choices.stationZones.map((station) => (
                <option key={station.name} value={station.zone}>
                  {station.name} ({station.zone})
                </option>
              ))}
            </optgroup>
          ) : null}
          <optgroup label="All zones">
            {choices.zones.map((zone) => (
              <option key={zone} value={zone}>
                {zone}
              </option>
            ))}
          </optgroup>
        </select>
      </label>
    </div>
  );
}

/** The date in a zone so many days after an instant, at an hour there. */
function wallIn(zone: string, ms: number, time: string): string {
  const date = new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short' }).format(ms);
  return `${date}T${time}`;
}

const DAY_MS = 86_400_000;

/** Now, or at a date and time. */
export function WhenPanel({
  plan,
  choices,
  zone,
  nowMs,
  onChange,
  dueMs,
  clockNote,
}: PanelProps & { dueMs: number | null; clockNote: string | null }) {
  const { timing } = plan;
  const at =
    timing.kind === 'at'
      ? timing
      : { kind: 'at' as const, wall: wallIn(zone, nowMs + DAY_MS, '09:00'), zone };
  return (
    <div className="flex flex-col gap-2">
      <label className="flex min-h-11 cursor-pointer items-center gap-2">
        <input
          type="radio"
          name="timing"
          className="radio radio-primary"
          checked={timing.kind === 'now'}
          onChange={() => onChange({ ...plan, timing: { kind: 'now' } })}
        />
        Now, after ten seconds in which it can be taken back
      </label>
      <label className="flex min-h-11 cursor-pointer items-center gap-2">
        <input
          type="radio"
          name="timing"
          className="radio radio-primary"
          checked={timing.kind === 'at'}
          onChange={() => onChange({ ...plan, timing: at })}
        />
        At a date and time
      </label>
      {timing.kind === 'at' ? (
        <>
          <MomentFields
            moment={timing}
            choices={choices}
            onChange={(moment) => onChange({ ...plan, timing: { kind: 'at', ...moment } })}
          />
          {dueMs !== null && timing.zone !== zone ? (
            <p className="text-quiet">That is {momentWords(dueMs, zone, nowMs)} your time.</p>
          ) : null}
          {clockNote === null ? null : <p className="text-info">{clockNote}</p>}
        </>
      ) : null}
    </div>
  );
}

/** Nothing back, or an acknowledgement with or without a deadline. */
export function AskPanel({ plan, choices, zone, nowMs, onChange }: PanelProps) {
  const { ask } = plan;
  return (
    <div className="flex flex-col gap-2">
      <label className="flex min-h-11 cursor-pointer items-center gap-2">
        <input
          type="radio"
          name="ask"
          className="radio radio-primary"
          checked={ask.kind === 'nothing'}
          onChange={() => onChange({ ...plan, ask: { kind: 'nothing' } })}
        />
        Nothing back
      </label>
      <label className="flex min-h-11 cursor-pointer items-center gap-2">
        <input
          type="radio"
          name="ask"
          className="radio radio-primary"
          checked={ask.kind === 'acknowledgement'}
          onChange={() => onChange({ ...plan, ask: { kind: 'acknowledgement', deadline: null } })}
        />
        An acknowledgement: one tap that says it was read
      </label>
      {ask.kind === 'acknowledgement' ? (
        <>
          <label className="flex min-h-11 cursor-pointer items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={ask.deadline !== null}
              onChange={(event) =>
                onChange({
                  ...plan,
                  ask: {
                    kind: 'acknowledgement',
                    deadline: event.target.checked
                      ? { wall: wallIn(zone, nowMs + 3 * DAY_MS, '12:00'), zone }
                      : null,
                  },
                })
              }
            />
            with a deadline
          </label>
          {ask.deadline ? (
            <MomentFields
              moment={ask.deadline}
              choices={choices}
              onChange={(deadline) => onChange({ ...plan, ask: { kind: 'acknowledgement', deadline } })}
            />
          ) : null}
        </>
      ) : null}
    </div>
  );
}
