import { useWatch } from 'react-hook-form';
import type { PollBox } from '../../../core/asks/box.ts';
import { FormProblem } from '../../form/fields.tsx';
import { useServerForm } from '../../form/useServerForm.ts';
import { Ballot, draftOf, type PollFormProps } from './Ballot.tsx';
import type { Draft } from './ballotFields.tsx';

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

/** The form that takes a vote. */
export function PollForm({ poll, preset, busy, asleep, onSend }: PollFormProps) {
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
      <Ballot
        poll={poll}
        draft={draft}
        busy={busy}
        asleep={asleep}
        problem={<FormProblem form={form} />}
        onSet={set}
      />
    </form>
  );
}
