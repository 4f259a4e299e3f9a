import type { PollBox } from '../../../core/asks/box.ts';
import { ballotWords } from '../../../core/asks/poll/ballot.ts';
import { lazily } from '../../lazily.tsx';
import type { BoxParts, ShownKind } from '../kind.ts';
import { OutcomeView } from './OutcomeView.tsx';
import { AsleepPollForm } from './Ballot.tsx';

const chosenWords = ({ mine, options }: PollBox): string =>
  mine === null
    ? ''
    : ballotWords(mine, (id) => options.find((option) => option.id === id)?.words ?? String(id)) ||
      'none of them';

/** How the vote works, what the reader chose, and the choice while it can be made. */
function Vote({ box, asking, waits, preset, busy, asleep, send }: BoxParts) {
  const { poll } = box;
  if (!poll) return null;
  return (
    <>
      {!waits && box.closedMs === null ? (
        <ul className="mb-2 text-sm text-quiet" aria-label="How this vote works">
          {poll.rules.map((rule) => (
            <li key={rule}>{rule}</li>
          ))}
        </ul>
      ) : null}
      {poll.mine && !asking ? (
        <p className="mb-2" dir="auto">
          You chose: <strong>{chosenWords(poll)}</strong>.
        </p>
      ) : null}
      {asking && !waits ? (
        <PollForm poll={poll} preset={preset} busy={busy} asleep={asleep} onSend={send} />
      ) : null}
    </>
  );
}

// What takes the vote comes after the page, and only where one is to be given.
const PollForm = lazily(() => import('./PollForm.tsx').then((module) => module.PollForm), AsleepPollForm);

// Few polls take another option.
const AddOption = lazily(
  () => import('./AddOption.tsx').then((module) => module.AddOption),
  () => <div className="mt-4 h-16" />,
  'near',
);

/** How the vote stands, or why that is not shown; and where an option can be added. */
function Outcome({ box, asking, zone, signed, refetch }: BoxParts) {
  const { poll } = box;
  if (!poll) return null;
  return (
    <>
      {!asking || box.answeredMs !== null || poll.shown === 'always' ? (
        <div className="mt-4">
          {poll.outcome ? (
            <OutcomeView outcome={poll.outcome} options={poll.options} kind={poll.kind} asked={box.asked} />
          ) : (
            <p className="text-sm text-quiet">{poll.hidden}</p>
          )}
        </div>
      ) : null}
      {poll.adding && !signed ? (
        <AddOption id={box.occurrenceId} dates={poll.kind === 'dates'} zone={zone} onAdded={refetch} />
      ) : null}
    </>
  );
}

export const POLL: ShownKind = {
  heading: ({ poll }) => poll?.question ?? null,
  change: 'Change my vote',
  Answer: Vote,
  Below: Outcome,
};
