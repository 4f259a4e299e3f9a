import type { ReactNode } from 'react';
import type { AnswerLine, OpenQuestion, ShelfDesk, Subject } from '../../core/shelf/shelf.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';
import { request } from '../../ui/api.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { inOrder } from './AnswerForm.tsx';
import { NewSubject } from './NewSubject.tsx';

/** Who asked, what they were offered and say of it, and what became of it when they asked before. */
function QuestionFacts({ question, zone }: { question: OpenQuestion; zone: string }) {
  const { before, offered } = question;
  return (
    <div className="text-sm text-quiet">
      <p>
        {question.by} {question.named ? '(may be named)' : '(not to be named)'} ·{' '}
        {question.found === 0
          ? 'found nothing'
          : offered.length === 0
            ? `was offered ${question.found}`
            : 'was offered '}
        {offered.map((answer, i) => (
          <span key={answer.id}>
            {i === 0 ? '' : ', '}
            <a className="link-quiet" href={`/shelf/${answer.id}`} dir="auto">
              {answer.question}
            </a>
          </span>
        ))}
      </p>
      {question.note === '' ? null : (
        <p>
          They say: <q dir="auto">{question.note}</q>
        </p>
      )}
      {before ? (
        <p>
          Asked before on {shortDate(before.atMs, zone)}
          {before.state === 'answered' && before.answerId !== null ? (
            <>
              , and pointed to{' '}
              <a className="link-quiet" href={`/shelf/${before.answerId}`}>
                an answer
              </a>
            </>
          ) : before.reason === null ? (
            ''
          ) : (
            <>
              , and closed: <q dir="auto">{before.reason}</q>
            </>
          )}
          .
        </p>
      ) : null}
    </div>
  );
}

/** A question that waits for an answer, and what can be done with it. */
export function OpenLine({
  question,
  answers,
  zone,
  form,
  onAnswer,
  onClose,
  onPointed,
  onProblem,
}: {
  question: OpenQuestion;
  /** The answers it can be pointed to. */
  answers: ShelfDesk['all'];
  zone: string;
  /** The answer as it is written; null where none is. */
  form: ReactNode;
  onAnswer: () => void;
  onClose: () => void;
  onPointed: () => void;
  onProblem: (problem: unknown) => void;
}) {
  const awake = useAwake();
  return (
    <li>
      <time className="margin text-sm" dateTime={new Date(question.atMs).toISOString()}>
        <span className="block">{shortDate(question.atMs, zone)}</span>
        {timeWords(question.atMs, zone)}
      </time>
      <div className="col-span-2 max-sm:col-span-1">
        <p className="text-lg" dir="auto">
          {question.text}
        </p>
        <QuestionFacts question={question} zone={zone} />
        {form ? (
          <div className="mt-3">{form}</div>
        ) : (
          <div className="mt-2 flex flex-wrap gap-2">
            <button type="button" className="btn btn-primary btn-sm" disabled={!awake} onClick={onAnswer}>
              Answer it
            </button>
            <label className="flex items-center gap-2 text-sm whitespace-nowrap">
              or point to
              <select
                className="select select-sm max-w-64"
                value=""
                disabled={!awake}
                onChange={(event) => {
                  request('POST', `/api/shelf/questions/${question.id}/answer`, {
                    answerId: Number(event.target.value),
                  }).then(onPointed, onProblem);
                }}
              >
                <option value="">an answer on the shelf</option>
                {answers.map((answer) => (
                  <option key={answer.id} value={answer.id}>
                    {answer.question}
                  </option>
                ))}
              </select>
            </label>
            <button type="button" className="btn btn-ghost btn-sm" disabled={!awake} onClick={onClose}>
              Close it without an answer
            </button>
          </div>
        )}
      </div>
    </li>
  );
}

/** What was answered to one, and can be put on the shelf for all. */
export function Unpublished({
  answers,
  onPublished,
  onProblem,
}: {
  answers: readonly AnswerLine[];
  onPublished: () => void;
  onProblem: (problem: unknown) => void;
}) {
  const awake = useAwake();
  if (answers.length === 0) return null;
  return (
    <section aria-labelledby="unpublished" className="mb-8">
      <h2 id="unpublished" className="mb-2">
        Answered to one, not yet for all
      </h2>
      <ul className="ledger">
        {answers.map((answer) => (
          <li key={answer.id}>
            <span className="margin text-sm text-quiet">{answer.subject}</span>
            <a className="link-quiet" href={`/shelf/${answer.id}`} dir="auto">
              {answer.question}
            </a>
            <button
              type="button"
              className="btn btn-outline btn-sm"
              aria-label={`Publish “${answer.question}” to all`}
              disabled={!awake}
              onClick={() => {
                request('POST', `/api/shelf/answers/${answer.id}/publish`).then(onPublished, onProblem);
              }}
            >
              Publish to all
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What is asked most, and what found nothing. */
export function OftenAndNever({ desk }: { desk: ShelfDesk }) {
  return (
    <div className="grid gap-8 sm:grid-cols-2">
      <section aria-labelledby="most">
        <h2 id="most" className="mb-2">
          Asked most
        </h2>
        {desk.mostAsked.length === 0 ? <p className="text-quiet">Nothing yet.</p> : null}
        <ol>
          {desk.mostAsked.map((answer) => (
            <li key={answer.id} className="flex min-h-11 items-center gap-3 border-b border-base-300">
              <span className="figure w-10 text-right">{answer.n}</span>
              <a className="link-quiet" href={`/shelf/${answer.id}`} dir="auto">
                {answer.question}
              </a>
            </li>
          ))}
        </ol>
      </section>
      <section aria-labelledby="nothing">
        <h2 id="nothing" className="mb-2">
          Found nothing
        </h2>
        {desk.foundNothing.length === 0 ? <p className="text-quiet">Nothing yet.</p> : null}
        <ul>
          {desk.foundNothing.map((question) => (
            <li key={question.id} className="border-b border-base-300 py-2" dir="auto">
              {question.text}
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

/** The subjects of the shelf, and a way to add one. */
export function Subjects({ subjects, onAdded }: { subjects: readonly Subject[]; onAdded: () => void }) {
  return (
    <section aria-labelledby="subjects" className="mt-8 border-t border-base-300 pt-4">
      <h2 id="subjects" className="mb-2">
        Subjects
      </h2>
      <ul className="mb-3">
        {inOrder(subjects).map((subject) => (
          <li key={subject.id} className={subject.parentId === null ? 'font-semibold' : 'pl-5'}>
            {subject.name} <span className="figure text-sm font-normal text-quiet">{subject.answers}</span>
          </li>
        ))}
      </ul>
      <NewSubject subjects={subjects} onDone={onAdded} />
    </section>
  );
}
