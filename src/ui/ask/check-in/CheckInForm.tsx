import { useId, useState } from 'react';
import type { CheckInBox } from '../../../core/asks/box.ts';
import type { CheckInAnswers, Question } from '../../../core/asks/check-in/checkIn.ts';
import { Notice } from '../../Notice.tsx';
import { UNKEPT, useKeptText } from '../../useKeptText.ts';

function Field({
  question,
  value,
  problem,
  onChange,
}: {
  question: Question;
  value: string | undefined;
  problem: string | undefined;
  onChange: (value: string | undefined) => void;
}) {
  const id = useId();
  const [blocked, setBlocked] = useState(value !== undefined && value !== '');
  const described =
    problem === undefined ? {} : { 'aria-invalid': true, 'aria-describedby': `${id}-problem` };
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
                if (!event.target.checked) onChange(undefined);
              }}
            />
            {question.text}
          </label>
          {blocked ? (
            <label className="flex flex-col gap-1">
              By what, and whom would it help to ask?
              <textarea
                className="textarea w-full"
                rows={2}
                maxLength={1000}
                value={value ?? ''}
                {...described}
                onChange={(event) => onChange(event.target.value)}
              />
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
            <select
              id={id}
              className="select w-full sm:w-auto"
              value={value ?? ''}
              {...described}
              onChange={(event) => onChange(event.target.value || undefined)}
            >
              <option value="">Choose</option>
              {question.options.map((option) => (
                <option key={option} value={option}>
                  {option}
                </option>
              ))}
            </select>
          ) : question.kind === 'number' ? (
            <input
              id={id}
              type="text"
              inputMode="decimal"
              className="input w-40"
              value={value ?? ''}
              {...described}
              onChange={(event) => onChange(event.target.value || undefined)}
            />
          ) : (
            <textarea
              id={id}
              className="textarea w-full"
              rows={2}
              maxLength={1000}
              value={value ?? ''}
              {...described}
              onChange={(event) => onChange(event.target.value || undefined)}
            />
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
  problems,
  onSend,
}: {
  occurrenceId: number;
  checkIn: CheckInBox;
  answered: boolean;
  busy: boolean;
  /** Whether the page cannot hear a press yet. */
  asleep: boolean;
  problems: readonly { field: string; detail: string }[];
  /** Called with what is said, and what to call once it was taken. */
  onSend: (answers: Record<string, string>, taken: () => void) => void;
}) {
  const {
    text: answers,
    set: setAnswers,
    sent,
    unkept,
    back,
  } = useKeptText<CheckInAnswers>(answered ? null : `check-in:${occurrenceId}`, checkIn.answers);
  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        onSend(Object.fromEntries(Object.entries(answers).filter(([, text]) => text.trim() !== '')), sent);
      }}
    >
      <fieldset disabled={asleep} className="contents">
        {checkIn.offered ? (
          <p className="mb-3 text-sm text-quiet">
            What you said came next the last time is filled in as done. Change what is not so.
          </p>
        ) : null}
        {checkIn.questions.map((question, place) => (
          <Field
            key={`${place}${back ? 'b' : ''}`}
            question={question}
            value={answers[place]}
            problem={problems.find((problem) => problem.field === `answers.${place}`)?.detail}
            onChange={(value) => {
              const next = Object.entries(answers).filter(([key]) => Number(key) !== place);
              setAnswers(Object.fromEntries(value === undefined ? next : [...next, [place, value]]));
            }}
          />
        ))}
        {unkept ? <Notice tone="warning">{UNKEPT}</Notice> : null}
        <button type="submit" className="btn btn-primary btn-lg w-full sm:w-auto" disabled={busy}>
          {answered ? 'Change what I said' : 'Check in'}
        </button>
      </fieldset>
    </form>
  );
}
