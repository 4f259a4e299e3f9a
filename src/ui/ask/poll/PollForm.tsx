import { useWatch } from 'react-hook-form';
import type { Ballot } from '../../../core/asks/poll/ballot.ts';
import type { PollBox } from '../../../core/asks/box.ts';
import { FormProblem } from '../../form/fields.tsx';
import { useServerForm } from '../../form/useServerForm.ts';
import { Answer, type Draft } from './ballotFields.tsx';

function draftOf(poll: PollBox, preset: number | null): Draft {
  const mine: Ballot | null = poll.mine;
  return {
    choices:
      mine?.kind === 'choices' ? mine.choices : preset !== null && poll.kind !== 'rating' ? [preset] : [],
    ranking: mine?.kind === 'ranking' ? mine.ranking : [],
    answers: mine?.kind === 'dates' ? mine.answers : {},
    rating: mine?.kind === 'rating' ? mine.rating : poll.kind === 'rating' ? preset : null,
    text: mine?.kind === 'text' ? mine.text : '',
  };
}

function sendable(poll: PollBox, draft: Draft): Record<string, unknown> {
  switch (poll.kind) {
    case 'single':
    case 'approval':
    case 'several':
      return { choices: draft.choices };
    case 'ranking':
      return { ranking: draft.ranking };
    case 'dates':
      return {
        answers: Object.fromEntries(poll.options.map(({ id }) => [id, draft.answers[id] ?? 'no'])),
      };
    case 'rating':
      return draft.rating === null ? {} : { rating: draft.rating };
    case 'text':
      return { text: draft.text };
  }
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

/** The ballot of a poll, as its kind asks for it. */
export function PollForm({
  poll,
  preset,
  busy,
  asleep,
  onSend,
}: {
  poll: PollBox;
  /** An option chosen in the mail already. */
  preset: number | null;
  busy: boolean;
  /** Whether the page cannot hear a press yet. */
  asleep: boolean;
  /** Sends the answer; a refusal is thrown as `ApiProblem`. */
  onSend: (answer: Record<string, unknown>) => Promise<void>;
}) {
  const form = useServerForm<Draft>({
    values: draftOf(poll, preset),
    shown: [],
    send: (draft) => onSend(sendable(poll, draft)),
  });
  const draft = useWatch({ control: form.control }) as Draft;
  const set = (part: Partial<Draft>): void => {
    for (const [name, value] of Object.entries(part))
      form.setValue(name as keyof Draft, value, { shouldDirty: true });
  };
  return (
    <form onSubmit={(event) => void form.submit(event)} noValidate>
      <fieldset disabled={asleep} className="contents">
        <Answer poll={poll} draft={draft} onSet={set} />
        <FormProblem form={form} />
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
    </form>
  );
}
