import { EMPTY_POLL, optionsOf, optionWords } from '../../../../core/asks/poll/poll.ts';
import type { PollAsk } from '../../../../core/asks/poll/pollAsk.ts';
import type { FieldsProps, WrittenKind } from '../kind.ts';
import { PreviewButton } from '../PreviewButton.tsx';
import { PollFields } from './PollFields.tsx';

function Fields({ ask, onChange, ...where }: FieldsProps<PollAsk>) {
  return <PollFields {...where} poll={ask.poll} onChange={(poll) => onChange({ ...ask, poll })} />;
}

function Preview({ ask: { poll }, zone, nowMs }: { ask: PollAsk; zone: string; nowMs: number }) {
  return (
    <>
      <p className="font-display text-lg font-semibold" dir="auto">
        {poll.question || <span className="text-quiet">The question</span>}
      </p>
      <ul>
        {optionsOf(poll).map((option) => (
          <li key={option.id} className="border-t border-base-300 py-2" dir="auto">
            {optionWords(option, zone, nowMs)}
          </li>
        ))}
      </ul>
      <PreviewButton words="Vote" />
    </>
  );
}

export const POLL: WrittenKind<PollAsk> = {
  begin: (common) => ({ kind: 'poll', ...common, poll: EMPTY_POLL }),
  Fields,
  joiners: true,
  Preview,
};
