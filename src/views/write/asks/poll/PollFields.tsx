import { takesOptions, type Poll } from '../../../../core/asks/poll/poll.ts';
import type { PollKind } from '../../../../core/asks/poll/pollKinds.ts';
import { suggestionsFor, withSuggestion } from '../../../../core/asks/poll/suggest.ts';
import type { Choices } from '../../draft.ts';
import { wallIn } from '../../MomentFields.tsx';
import { KindFields, Options, ResultFields } from './pollParts.tsx';

/** What is asked in a poll, among what one chooses, and how it is counted and shown. */
export function PollFields({
  poll,
  choices,
  zone,
  nowMs,
  onChange,
}: {
  poll: Poll;
  choices: Choices;
  zone: string;
  nowMs: number;
  onChange: (poll: Poll) => void;
}) {
  const set = (part: Partial<Poll>): void => onChange({ ...poll, ...part });
  const dates = poll.kind === 'dates';
  const setKind = (kind: PollKind): void => {
    const turned = (kind === 'dates') !== dates;
    set({
      kind,
      options: turned
        ? [0, 1].map((more) => ({
            label: '',
            at: kind === 'dates' ? { wall: wallIn(zone, nowMs, 7 + more, '10:00'), zone } : null,
          }))
        : poll.options,
      limit: null,
    });
  };
  const suggestions = suggestionsFor(poll.question).slice(0, 5);
  return (
    <div className="flex flex-col gap-3">
      <label className="flex flex-col gap-1">
        The question
        <input
          type="text"
          className="input w-full"
          maxLength={300}
          value={poll.question}
          onChange={(event) => set({ question: event.target.value })}
        />
      </label>
      {suggestions.length > 0 ? (
        <div className="flex flex-wrap items-center gap-2">
          <span className="text-sm text-quiet">Often used:</span>
          {suggestions.map((suggestion) => (
            <button
              key={suggestion.name}
              type="button"
              className="btn btn-outline btn-sm min-h-11"
              onClick={() => onChange(withSuggestion(poll, suggestion))}
            >
              {suggestion.name}
            </button>
          ))}
        </div>
      ) : null}
      <KindFields poll={poll} onKind={setKind} onSet={set} />
      {takesOptions(poll.kind) ? (
        <Options poll={poll} choices={choices} zone={zone} nowMs={nowMs} onSet={set} />
      ) : null}
      <ResultFields poll={poll} onSet={set} />
    </div>
  );
}
