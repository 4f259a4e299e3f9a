import { useId, type ChangeEvent, type ReactNode, type Ref } from 'react';
import type { CheckInBox } from '../../../core/asks/box.ts';
import type { Question } from '../../../core/asks/check-in/checkIn.ts';

/** What is filled in: what is said to each question, by its place, and whether something blocks whoever says it. */
export type CheckInDraft = { answers: Record<string, string>; blocked: boolean };

/** Whether something that blocks them was said. */
export const saysBlocked = ({ questions, answers }: CheckInBox): boolean =>
  questions.some(({ kind }, place) => kind === 'blocked' && (answers[place] ?? '') !== '');

export interface CheckInFormProps {
  occurrenceId: number;
  checkIn: CheckInBox;
  answered: boolean;
  busy: boolean;
  /** Whether the page cannot hear a press yet. */
  asleep: boolean;
  /** Sends what is said; a refusal is thrown as `ApiProblem`. */
  onSend: (given: Pick<CheckInDraft, 'answers'>) => Promise<void>;
}

interface Input {
  value: string;
  onChange: (event: string | ChangeEvent<HTMLTextAreaElement | HTMLInputElement | HTMLSelectElement>) => void;
  onBlur?: () => void;
  name?: string;
  ref?: Ref<never>;
}

/** A question of a check-in, and what is wrong with what was said to it. */
export function QuestionField({
  question,
  input,
  blocked,
  onBlocked,
  problem,
}: {
  question: Question;
  input: Input;
  /** Of the question for what blocks them: whether something does. */
  blocked: boolean;
  onBlocked: (blocked: boolean) => void;
  problem?: string | undefined;
}) {
  const id = useId();
  const given = {
    ...input,
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
              onChange={(event) => onBlocked(event.target.checked)}
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

/** What stands round the questions. */
export function Questions({
  checkIn,
  answered,
  busy,
  asleep,
  children,
}: Pick<CheckInFormProps, 'checkIn' | 'answered' | 'busy' | 'asleep'> & { children: ReactNode }) {
  return (
    <fieldset disabled={asleep} className="contents">
      {checkIn.offered ? (
        <p className="mb-3 text-sm text-quiet">
          What you said came next the last time is filled in as done. Change what is not so.
        </p>
      ) : null}
      {children}
      <button type="submit" className="btn btn-primary btn-lg w-full sm:w-auto" disabled={busy}>
        {answered ? 'Change what I said' : 'Check in'}
      </button>
    </fieldset>
  );
}

/** The questions as they are sent with the page, until what takes the answers has come. */
export const AsleepCheckInForm = (props: CheckInFormProps) => (
  <form>
    <Questions {...props} asleep>
      {props.checkIn.questions.map((question, place) => (
        <QuestionField
          key={place}
          question={question}
          input={{ value: props.checkIn.answers[place] ?? '', onChange: () => undefined }}
          blocked={saysBlocked(props.checkIn)}
          onBlocked={() => undefined}
        />
      ))}
    </Questions>
  </form>
);
