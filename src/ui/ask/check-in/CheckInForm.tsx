import { useId, useState, type Ref } from 'react';
import { useController } from 'react-hook-form';
import type { CheckInBox } from '../../../core/asks/box.ts';
import type { Question } from '../../../core/asks/check-in/checkIn.ts';
import { FormProblem } from '../../form/fields.tsx';
import { UNKEPT, useKeptForm, type KeptForm } from '../../form/useKeptForm.ts';
import { Notice } from '../../Notice.tsx';

/** What is said to each question, by its place. */
type Answers = { answers: Record<string, string> };

function Field({ question, form, place }: { question: Question; form: KeptForm<Answers>; place: number }) {
  const id = useId();
  const { field, fieldState } = useController({ control: form.control, name: `answers.${place}` });
  const problem = fieldState.error?.message;
  const [blocked, setBlocked] = useState(field.value !== '');
  const given = {
    ...field,
    ref: field.ref as Ref<never>,
    ...(problem === undefined ? {} : { 'aria-invalid': true, 'aria-describedby': `${id}-problem` }),
  };
  return (
    <div className="mb-4">
      {question.kind === 'blocked' ? (
        <>
          <label className="flex min-h-11 cursor-pointer items-center gap-3 font-semibold">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={blocked}
              onChange={(event) => {
                setBlocked(event.target.checked);
                if (!event.target.checked) field.onChange('');
              }}
            />
            {question.text}
          </label>
          {blocked ? (
            <label className="flex flex-col gap-1">
              By what, and whom would it help to ask?
              <textarea className="textarea w-full" rows={2} maxLength={1000} {...given} />
            </label>
          ) : null}
        </>
      ) : (
        <>
          <label htmlFor={id} className="mb-1 block font-semibold">
            {question.text}
            {question.needed ? null : <span className="text-sm font-normal text-quiet"> if you like</span>}
          </label>
          {question.kind === 'choice' ? (
            <select id={id} className="select w-full sm:w-auto" {...given}>
              <option value="">Choose</option>
              {question.options.map((option) => (
                <option key={option} value={option}>
                  {option}
                </option>
              ))}
            </select>
          ) : question.kind === 'number' ? (
            <input id={id} type="text" inputMode="decimal" className="input w-40" {...given} />
          ) : (
            <textarea id={id} className="textarea w-full" rows={2} maxLength={1000} {...given} />
          )}
        </>
      )}
      {problem === undefined ? null : (
        <p id={`${id}-problem`} className="text-error">
          {problem}
        </p>
      )}
    </div>
  );
}

/** The questions of a check-in; what was to come next the last time is offered as what is done. */
export function CheckInForm({
  occurrenceId,
  checkIn,
  answered,
  busy,
  asleep,
  onSend,
}: {
  occurrenceId: number;
  checkIn: CheckInBox;
  answered: boolean;
  busy: boolean;
  /** Whether the page cannot hear a press yet. */
  asleep: boolean;
  /** Sends what is said; a refusal is thrown as `ApiProblem`. */
  onSend: (given: Answers) => Promise<void>;
}) {
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
      <fieldset disabled={asleep} className="contents">
        {checkIn.offered ? (
          <p className="mb-3 text-sm text-quiet">
            What you said came next the last time is filled in as done. Change what is not so.
          </p>
        ) : null}
        {checkIn.questions.map((question, place) => (
          <Field key={`${place}.${form.turn}`} question={question} form={form} place={place} />
        ))}
        <FormProblem form={form} />
        {form.unkept ? <Notice tone="warning">{UNKEPT}</Notice> : null}
        <button type="submit" className="btn btn-primary btn-lg w-full sm:w-auto" disabled={busy}>
          {answered ? 'Change what I said' : 'Check in'}
        </button>
      </fieldset>
    </form>
  );
}
