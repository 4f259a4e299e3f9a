import { USUAL_QUESTIONS } from '../../../../core/asks/check-in/checkIn.ts';
import type { CheckInAsk } from '../../../../core/asks/check-in/checkInAsk.ts';
import type { FieldsProps, WrittenKind } from '../kind.ts';
import { PreviewButton } from '../PreviewButton.tsx';
import { CheckInFields } from './CheckInFields.tsx';

function Fields({ ask, choices, onChange }: FieldsProps<CheckInAsk>) {
  return (
    <CheckInFields
      questions={ask.questions}
      digestOn={ask.digestOn}
      boards={choices.boards}
      onChange={(part) => onChange({ ...ask, ...part })}
    />
  );
}

function Preview({ ask: { questions } }: { ask: CheckInAsk }) {
  return (
    <>
      {questions.map((question, i) => (
        <p key={i} className="mt-2 font-semibold" dir="auto">
          {question.text}
        </p>
      ))}
      <PreviewButton words="Check in" />
    </>
  );
}

export const CHECK_IN: WrittenKind<CheckInAsk> = {
  begin: (common) => ({
    kind: 'check-in',
    ...common,
    within: common.within ?? 8,
    deadline: null,
    questions: USUAL_QUESTIONS,
    digestOn: [],
  }),
  Fields,
  // It is asked anew each working day, of whoever is there then.
  joiners: false,
  Preview,
};
