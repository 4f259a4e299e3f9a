import {
  MOST_QUESTIONS,
  QUESTION_KIND_WORDS,
  QUESTION_KINDS,
  QUESTION_PARTS,
  type Question,
} from '../../../../core/asks/check-in/checkIn.ts';
import { BoardBoxes } from '../../BoardBoxes.tsx';
import type { BoardChoice } from '../../draft.ts';

const PART_WORDS: Record<Question['part'], string> = {
  none: 'stands by itself',
  done: 'is what was done',
  next: 'is what comes next',
};

function QuestionFields({
  question,
  at,
  onChange,
  onRemove,
}: {
  question: Question;
  at: number;
  onChange: (question: Question) => void;
  onRemove: () => void;
}) {
  const set = (part: Partial<Question>): void => onChange({ ...question, ...part });
  return (
    <li className="flex flex-wrap items-end gap-2 border-t border-base-300 py-2">
      <label className="flex min-w-56 flex-1 flex-col gap-1">
        <span className="text-sm">Question {at + 1}</span>
        <input
          type="text"
          className="input w-full"
          maxLength={160}
          value={question.text}
          onChange={(event) => set({ text: event.target.value })}
        />
      </label>
      <label className="flex flex-col gap-1">
        <span className="text-sm">Answered with</span>
        <select
          className="select"
          value={question.kind}
          onChange={(event) => {
            const kind = QUESTION_KINDS.find((each) => each === event.target.value);
            if (kind) set({ kind, part: kind === 'text' ? question.part : 'none' });
          }}
        >
          {QUESTION_KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {QUESTION_KIND_WORDS[kind]}
            </option>
          ))}
        </select>
      </label>
      {question.kind === 'text' ? (
        <label className="flex flex-col gap-1">
          <span className="text-sm">From day to day it</span>
          <select
            className="select"
            value={question.part}
            onChange={(event) => {
              const part = QUESTION_PARTS.find((each) => each === event.target.value);
              if (part) set({ part });
            }}
          >
            {QUESTION_PARTS.map((part) => (
              <option key={part} value={part}>
                {PART_WORDS[part]}
              </option>
            ))}
          </select>
        </label>
      ) : null}
      <label className="flex min-h-11 cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={question.needed}
          onChange={(event) => set({ needed: event.target.checked })}
        />
        needed
      </label>
      <button
        type="button"
        className="btn btn-outline"
        aria-label={`Take out question ${at + 1}`}
        onClick={onRemove}
      >
        Take out
      </button>
      {question.kind === 'choice' ? (
        <label className="flex w-full flex-col gap-1">
          <span className="text-sm">What to choose from, one a line</span>
          <textarea
            className="textarea w-full"
            rows={3}
            defaultValue={question.options.join('\n')}
            onChange={(event) =>
              set({
                options: event.target.value
                  .split('\n')
                  .map((line) => line.trim().slice(0, 80))
                  .filter(Boolean)
                  .slice(0, 20),
              })
            }
          />
        </label>
      ) : null}
    </li>
  );
}

/** The questions of a check-in and where its digest goes. */
export function CheckInFields({
  questions,
  digestOn,
  boards,
  onChange,
}: {
  questions: Question[];
  digestOn: number[];
  boards: readonly BoardChoice[];
  onChange: (part: { questions?: Question[]; digestOn?: number[] }) => void;
}) {
  return (
    <div className="flex flex-col gap-3">
      <p className="text-sm text-quiet">
        Asked on their working days only: not of those who are away, on leave, or have a holiday at their
        station. Plan it to recur by their time.
      </p>
      <ol>
        {questions.map((question, at) => (
          <QuestionFields
            key={at}
            question={question}
            at={at}
            onChange={(next) => onChange({ questions: questions.map((each, i) => (i === at ? next : each)) })}
            onRemove={() => onChange({ questions: questions.filter((_, i) => i !== at) })}
          />
        ))}
      </ol>
      <button
        type="button"
        className="btn btn-outline self-start"
        disabled={questions.length >= MOST_QUESTIONS}
        onClick={() =>
          onChange({
            questions: [...questions, { text: '', kind: 'text', part: 'none', options: [], needed: true }],
          })
        }
      >
        Another question
      </button>
      <details open={digestOn.length > 0}>
        <summary className="flex min-h-11 cursor-pointer items-center text-primary">
          When it closes, post what was said on{' '}
          {digestOn.length === 0
            ? 'no board'
            : digestOn.length === 1
              ? 'one board'
              : `${digestOn.length} boards`}
        </summary>
        <BoardBoxes boards={boards} chosen={digestOn} onChange={(chosen) => onChange({ digestOn: chosen })} />
      </details>
    </div>
  );
}
