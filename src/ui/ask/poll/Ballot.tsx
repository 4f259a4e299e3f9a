import type { ReactNode } from 'react';
import type { PollBox } from '../../../core/asks/box.ts';
import type { Ballot as Cast } from '../../../core/asks/poll/ballot.ts';
import { Answer, type Draft } from './ballotFields.tsx';

export interface PollFormProps {
  poll: PollBox;
  /** An option chosen in the mail already. */
  preset: number | null;
  busy: boolean;
  /** Whether the page cannot hear a press yet. */
  asleep: boolean;
  /** Sends the answer; a refusal is thrown as `ApiProblem`. */
  onSend: (answer: Record<string, unknown>) => Promise<void>;
}

/** The ballot as it begins: with the vote that is changed, or what was chosen in the mail. */
export function draftOf(poll: PollBox, preset: number | null): Draft {
  const mine: Cast | null = poll.mine;
  return {
    choices:
      mine?.kind === 'choices' ? mine.choices : preset !== null && poll.kind !== 'rating' ? [preset] : [],
    ranking: mine?.kind === 'ranking' ? mine.ranking : [],
    answers: mine?.kind === 'dates' ? mine.answers : {},
    rating: mine?.kind === 'rating' ? mine.rating : poll.kind === 'rating' ? preset : null,
    text: mine?.kind === 'text' ? mine.text : '',
  };
}

/** Whether there is something to send. */
function isReady(poll: PollBox, draft: Draft): boolean {
  switch (poll.kind) {
    case 'ranking':
      return draft.ranking.length > 0;
    case 'dates':
      return true;
    case 'rating':
      return draft.rating !== null;
    case 'text':
      return draft.text.trim() !== '';
    default:
      return draft.choices.length > 0;
  }
}

/** A ballot as it is filled in, as the kind of its poll asks for it. */
export function Ballot({
  poll,
  draft,
  busy,
  asleep,
  problem = null,
  onSet,
}: {
  poll: PollBox;
  draft: Draft;
  busy: boolean;
  asleep: boolean;
  /** What is wrong with it. */
  problem?: ReactNode;
  onSet: (part: Partial<Draft>) => void;
}) {
  return (
    <fieldset disabled={asleep} className="contents">
      <Answer poll={poll} draft={draft} onSet={onSet} />
      {problem}
      <button
        type="submit"
        className="btn btn-primary btn-lg mt-3 w-full sm:w-auto"
        disabled={busy || !isReady(poll, draft)}
      >
        {poll.mine ? 'Change my vote' : 'Vote'}
      </button>
      {poll.anonymous ? (
        <p className="mt-2 text-sm text-quiet">
          Without names: that you voted is noted, and what you voted is kept apart from it.
        </p>
      ) : null}
    </fieldset>
  );
}

/** The ballot as it is sent with the page, until what takes the vote has come. */
export const AsleepPollForm = ({ poll, preset, busy }: PollFormProps) => (
  <form>
    <Ballot poll={poll} draft={draftOf(poll, preset)} busy={busy} asleep onSet={() => undefined} />
  </form>
);
