import type { Ref } from 'react';
import { useController } from 'react-hook-form';
import type { Question } from '../../../core/asks/check-in/checkIn.ts';
import { FormProblem } from '../../form/fields.tsx';
import { UNKEPT, useKeptForm, type KeptForm } from '../../form/useKeptForm.ts';
import { Notice } from '../../Notice.tsx';
import { QuestionField, Questions, type Answers, type CheckInFormProps } from './Questions.tsx';

function Field({ question, form, place }: { question: Question; form: KeptForm<Answers>; place: number }) {
  const { field, fieldState } = useController({ control: form.control, name: `answers.${place}` });
  return (
    <QuestionField
      question={question}
      input={{ ...field, ref: field.ref as Ref<never> }}
      problem={fieldState.error?.message}
    />
  );
}

/** The form of a check-in; what was to come next the last time is offered as what is done. */
export function CheckInForm(props: CheckInFormProps) {
  const { occurrenceId, checkIn, answered, onSend } = props;
  const form = useKeptForm<Answers>({
    keep: answered ? null : `check-in:${occurrenceId}`,
    values: {
      answers: Object.fromEntries(checkIn.questions.map((_, place) => [place, checkIn.answers[place] ?? ''])),
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
