import { takesOptions, type Poll, type PollOption } from '../../../../core/asks/poll/poll.ts';
import {
  MAJORITIES,
  MOST_OPTIONS,
  POLL_KIND_WORDS,
  POLL_KINDS,
  RANKING_METHOD_WORDS,
  RANKING_METHODS,
  SHOWN,
  type PollKind,
} from '../../../../core/asks/poll/pollKinds.ts';
import type { Choices } from '../../draft.ts';
import { HoursAbroad } from '../../HoursAbroad.tsx';
import { WallFields, wallIn, ZoneField } from '../../MomentFields.tsx';
import { NumberField } from '../../NumberField.tsx';

const SHOWN_WORDS: Record<Poll['shown'], string> = {
  always: 'always',
  'after voting': 'to whoever has voted',
  'after closing': 'once it has closed',
};

interface PartProps {
  poll: Poll;
  onSet: (part: Partial<Poll>) => void;
}

function Check({
  label,
  checked,
  onChange,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}) {
  return (
    <label className="flex min-h-11 cursor-pointer items-center gap-2">
      <input
        type="checkbox"
        className="checkbox checkbox-primary"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}

/** One option as it is written: its words, or a date and time. */
function OptionField({
  option,
  at,
  dates,
  choices,
  nowMs,
  onChange,
  onRemove,
  onMove,
  last,
}: {
  option: PollOption;
  at: number;
  dates: boolean;
  choices: Choices;
  nowMs: number;
  onChange: (option: PollOption) => void;
  onRemove: () => void;
  onMove: (by: number) => void;
  last: boolean;
}) {
  return (
    <li className="flex flex-wrap items-end gap-2 border-t border-base-300 py-2">
      {dates && option.at ? (
        <>
          <WallFields
            wall={option.at.wall}
            onChange={(wall) => onChange({ ...option, at: { wall, zone: option.at?.zone ?? 'UTC' } })}
          />
          <ZoneField
            zone={option.at.zone}
            choices={choices}
            onChange={(zone) => onChange({ ...option, at: { wall: option.at?.wall ?? '', zone } })}
          />
        </>
      ) : (
        <label className="flex min-w-40 flex-1 flex-col gap-1">
          <span className="text-sm">Option {at + 1}</span>
          <input
            type="text"
            className="input w-full"
            maxLength={160}
            value={option.label}
            onChange={(event) => onChange({ ...option, label: event.target.value })}
          />
        </label>
      )}
      <button
        type="button"
        className="btn btn-outline btn-square"
        aria-label={`Option ${at + 1} up`}
        disabled={at === 0}
        onClick={() => onMove(-1)}
      >
        ↑
      </button>
      <button
        type="button"
        className="btn btn-outline btn-square"
        aria-label={`Option ${at + 1} down`}
        disabled={last}
        onClick={() => onMove(1)}
      >
        ↓
      </button>
      <button
        type="button"
        className="btn btn-outline"
        aria-label={`Take out option ${at + 1}`}
        onClick={onRemove}
      >
        Take out
      </button>
      {dates && option.at ? <HoursAbroad at={option.at} choices={choices} nowMs={nowMs} /> : null}
    </li>
  );
}

/** How a poll is answered, and how that is counted. */
export function KindFields({ poll, onKind, onSet }: PartProps & { onKind: (kind: PollKind) => void }) {
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <label className="flex flex-col gap-1">
          Answered with
          <select
            className="select"
            value={poll.kind}
            onChange={(event) => {
              const kind = POLL_KINDS.find((each) => each === event.target.value);
              if (kind) onKind(kind);
            }}
          >
            {POLL_KINDS.map((kind) => (
              <option key={kind} value={kind}>
                {POLL_KIND_WORDS[kind]}
              </option>
            ))}
          </select>
        </label>
        {poll.kind === 'several' ? (
          <NumberField
            label="At most so many"
            value={poll.limit ?? poll.options.length}
            min={1}
            max={MOST_OPTIONS}
            onChange={(limit) => onSet({ limit: limit >= poll.options.length ? null : limit })}
          />
        ) : null}
        {poll.kind === 'rating' ? (
          <NumberField
            label="From 1 to"
            value={poll.scale}
            min={2}
            max={10}
            onChange={(scale) => onSet({ scale })}
          />
        ) : null}
        {poll.kind === 'approval' ? (
          <>
            <label className="flex flex-col gap-1">
              Carried by
              <select
                className="select"
                value={poll.majority}
                onChange={(event) => {
                  const majority = MAJORITIES.find((each) => each === event.target.value);
                  if (majority) onSet({ majority });
                }}
              >
                {MAJORITIES.map((each) => (
                  <option key={each}>{each}</option>
                ))}
              </select>
            </label>
            <NumberField
              label="Quorum, in per cent of those asked"
              value={poll.quorum}
              min={0}
              max={100}
              onChange={(quorum) => onSet({ quorum })}
            />
          </>
        ) : null}
      </div>
      {poll.kind === 'ranking' ? (
        <fieldset>
          <legend className="text-sm">Counted by</legend>
          {RANKING_METHODS.map((method) => (
            <label key={method} className="flex min-h-11 cursor-pointer items-center gap-2">
              <input
                type="radio"
                name="ranking-method"
                className="radio radio-primary"
                checked={poll.method === method}
                onChange={() => onSet({ method })}
              />
              {RANKING_METHOD_WORDS[method]}
            </label>
          ))}
        </fieldset>
      ) : null}
    </>
  );
}

/** Among what one chooses. */
export function Options({
  poll,
  choices,
  zone,
  nowMs,
  onSet,
}: PartProps & { choices: Choices; zone: string; nowMs: number }) {
  const dates = poll.kind === 'dates';
  const newOption = (more: number): PollOption => {
    const before = poll.options.at(-1)?.at;
    return {
      label: '',
      at: dates
        ? before
          ? {
              wall: wallIn('UTC', Date.parse(`${before.wall}:00Z`), 1, before.wall.slice(11)),
              zone: before.zone,
            }
          : { wall: wallIn(zone, nowMs, 6 + more, '10:00'), zone }
        : null,
    };
  };
  const setOption = (at: number, option: PollOption): void =>
    onSet({ options: poll.options.map((each, i) => (i === at ? option : each)) });
  return (
    <div>
      <ol>
        {poll.options.map((option, at) => (
          <OptionField
            key={at}
            option={option}
            at={at}
            dates={dates}
            choices={choices}
            nowMs={nowMs}
            last={at === poll.options.length - 1}
            onChange={(next) => setOption(at, next)}
            onRemove={() => onSet({ options: poll.options.filter((_, i) => i !== at) })}
            onMove={(by) => {
              const next = [...poll.options];
              const [moved] = next.splice(at, 1);
              if (moved) next.splice(at + by, 0, moved);
              onSet({ options: next });
            }}
          />
        ))}
      </ol>
      <button
        type="button"
        className="btn btn-outline mt-1"
        disabled={poll.options.length >= MOST_OPTIONS}
        onClick={() => onSet({ options: [...poll.options, newOption(poll.options.length)] })}
      >
        {dates ? 'Another date' : 'Another option'}
      </button>
    </div>
  );
}

/** To whom and how the result shows. */
export function ResultFields({ poll, onSet }: PartProps) {
  const dates = poll.kind === 'dates';
  return (
    <>
      <label className="flex flex-col gap-1 self-start">
        The result shows
        <select
          className="select"
          value={poll.shown}
          onChange={(event) => {
            const shown = SHOWN.find((each) => each === event.target.value);
            if (shown) onSet({ shown });
          }}
        >
          {SHOWN.map((each) => (
            <option key={each} value={each}>
              {SHOWN_WORDS[each]}
            </option>
          ))}
        </select>
      </label>
      <div className="grid gap-x-6 sm:grid-cols-2">
        <Check
          label="without names"
          checked={poll.anonymous}
          onChange={(anonymous) => onSet({ anonymous })}
        />
        {takesOptions(poll.kind) ? (
          <Check
            label="readers may add options"
            checked={poll.adding}
            onChange={(adding) => onSet({ adding })}
          />
        ) : null}
        {takesOptions(poll.kind) && !dates ? (
          <Check
            label="options in another order for each reader"
            checked={poll.shuffle}
            onChange={(shuffle) => onSet({ shuffle })}
          />
        ) : null}
        <Check
          label="closes when all have voted"
          checked={poll.closesWhenAll}
          onChange={(closesWhenAll) => onSet({ closesWhenAll })}
        />
        <Check
          label="the outcome is posted where it was asked"
          checked={poll.postBack}
          onChange={(postBack) => onSet({ postBack })}
        />
      </div>
    </>
  );
}
