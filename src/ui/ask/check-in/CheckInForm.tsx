import type { Ref } from 'react';
import { useController, useWatch } from 'react-hook-form';
import type { Question } from '../../../core/asks/check-in/checkIn.ts';
import { FormProblem } from '../../form/fields.tsx';
import { UNKEPT, useKeptForm, type KeptForm } from '../../form/useKeptForm.ts';
import { Notice } from '../../Notice.tsx';
import {
  QuestionField,
  Questions,
  saysBlocked,
  type CheckInDraft,
  type CheckInFormProps,
} from './Questions.tsx';

function Field({
  question,
  form,
  place,
}: {
  question: Question;
  form: KeptForm<CheckInDraft>;
  place: number;
}) {
  const asksWhatBlocks = question.kind === 'blocked';
  const { field, fieldState } = useController({
    control: form.control,
    name: `answers.${place}`,
    rules: {
      // Pressed without a word it would be taken for nothing that blocks them.
      validate: (said, { blocked }) =>
        !asksWhatBlocks || !blocked || said.trim() !== '' || 'Write what it is, or take the tick away.',
    },
  });
  const blocked = useWatch({ control: form.control, name: 'blocked' });
  return (
    <QuestionField
      question={question}
      input={{ ...field, ref: field.ref as Ref<never> }}
      blocked={blocked}
      onBlocked={(now) => {
        form.setValue('blocked', now, { shouldDirty: true });
        if (!now) field.onChange('');
      }}
      problem={fieldState.error?.message}
    />
  );
}

/** The form of a check-in; what was to come next the last time is offered as what is done. */
export function CheckInForm(props: CheckInFormProps) {
  const { occurrenceId, checkIn, answered, onSend } = props;
  const form = useKeptForm<CheckInDraft>({
    keep: answered ? null : `check-in:${occurrenceId}`,
    values: {
      answers: Object.fromEntries(checkIn.questions.map((_, place) => [place, checkIn.answers[place] ?? ''])),
      blocked: saysBlocked(checkIn),
    },
    shown: checkIn.questions.map((_, place) => `answers.${place}` as const),
    send: ({ answers }) =>
      onSend({
        answers: Object.fromEntries(Object.entries(answers).filter(([, text]) => text.trim() !== '')),
      }),
  });
  return (
    <form noValidate onSubmit={(event) => void form.submit(event)}>
      <Questions {...props}>
        {checkIn.questions.map((question, place) => (
          <Field key={`${place}.${form.turn}`} question={question} form={form} place={place} />
        ))}
        <FormProblem form={form} />
        {form.unkept ? <Notice tone="warning">{UNKEPT}</Notice> : null}
      </Questions>
    </form>
  );
}
