import { useState } from 'react';
import type { AskedQuestion, OpenQuestion, ShelfDesk as Desk, Subject } from '../../core/shelf/shelf.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { SayWhy } from '../../ui/SayWhy.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';
import { done } from '../../ui/toast.ts';
import { AnswerForm, inOrder, type DraftAnswer } from './AnswerForm.tsx';

function NewSubject({ subjects, onDone }: { subjects: readonly Subject[]; onDone: () => void }) {
  const [name, setName] = useState('');
  const [parent, setParent] = useState('');
  const [error, setError] = useState<string>();
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        setError(undefined);
        request('POST', '/api/shelf/subjects', {
          name,
          parentId: parent === '' ? null : Number(parent),
        }).then(
          () => {
            setName('');
            onDone();
          },
          (problem: unknown) => setError(wordsOf(problem)),
        );
      }}
    >
      <label className="flex flex-col gap-1">
        New subject
        <input
          className="input"
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <label className="flex flex-col gap-1">
        Within
        <select className="select" value={parent} onChange={(event) => setParent(event.target.value)}>
          <option value="">nothing: it stands by itself</option>
          {subjects
            .filter((each) => each.parentId === null)
            .map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
        </select>
      </label>
      <button className="btn btn-outline">Add the subject</button>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </form>
  );
}

/** Who asked, what they were offered and say of it, and what became of it when they asked before. */
function Circumstances({ question, zone }: { question: OpenQuestion; zone: string }) {
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
          ) : before.word === null ? (
            ''
          ) : (
            <>
              , and closed: <q dir="auto">{before.word}</q>
            </>
          )}
          .
        </p>
      ) : null}
    </div>
  );
}

/** What the shelf asks of a coordinator: open questions, what is asked most, what found nothing, what is not yet for all. */
export default function ShelfDesk({
  first,
  subjects: firstSubjects,
  boards,
  begun,
  zone,
}: {
  first: Desk;
  subjects: Subject[];
  /** The boards on which a question can be answered for all. */
  boards: { id: number; name: string }[];
  /** What an answer is begun from, where one came to put something on the shelf. */
  begun: DraftAnswer | null;
  zone: string;
}) {
  const awake = useAwake();
  const [desk, setDesk] = useState(first);
  const [subjects, setSubjects] = useState(firstSubjects);
  const [writing, setWriting] = useState<AskedQuestion | 'new' | undefined>(begun ? 'new' : undefined);
  const [closing, setClosing] = useState<AskedQuestion>();
  const [error, setError] = useState<string>();
  const refresh = async (): Promise<void> => {
    try {
      setDesk(await request('GET', '/api/shelf/desk'));
      setSubjects(await request('GET', '/api/shelf/subjects'));
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  useLive(['shelf'], () => void refresh());
  const finished = (words: string) => (): void => {
    setWriting(undefined);
    void done(words);
    void refresh();
  };
  const form = (question: AskedQuestion | undefined) => (
    <AnswerForm
      key={question?.id ?? 'new'}
      subjects={subjects}
      boards={boards}
      {...(question ? { settles: question } : begun ? { first: begun } : {})}
      onDone={finished(question ? `${question.by} has been told.` : 'It is on the shelf.')}
      onCancel={() => setWriting(undefined)}
    />
  );
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">The shelf’s desk</h1>
        <a className="btn btn-ghost" href="/shelf">
          The shelf as members see it
        </a>
        <button type="button" className="btn btn-primary" disabled={!awake} onClick={() => setWriting('new')}>
          Write an answer
        </button>
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {writing === 'new' ? form(undefined) : null}
      <section aria-labelledby="open" className="mt-4 mb-8">
        <h2 id="open" className="mb-2">
          {desk.open.length === 0 ? 'No question is open' : 'Open questions'}
        </h2>
        <ul className="ledger">
          {desk.open.map((question) => (
            <li key={question.id}>
              <time className="margin text-sm" dateTime={new Date(question.atMs).toISOString()}>
                <span className="block">{shortDate(question.atMs, zone)}</span>
                {timeWords(question.atMs, zone)}
              </time>
              <div className="col-span-2 max-sm:col-span-1">
                <p className="text-lg" dir="auto">
                  {question.text}
                </p>
                <Circumstances question={question} zone={zone} />
                {writing !== 'new' && writing?.id === question.id ? (
                  <div className="mt-3">{form(question)}</div>
                ) : (
                  <div className="mt-2 flex flex-wrap gap-2">
                    <button
                      type="button"
                      className="btn btn-primary btn-sm"
                      disabled={!awake}
                      onClick={() => setWriting(question)}
                    >
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
                          }).then(finished(`${question.by} has been told.`), (problem: unknown) =>
                            setError(wordsOf(problem)),
                          );
                        }}
                      >
                        <option value="">an answer on the shelf</option>
                        {desk.all.map((answer) => (
                          <option key={answer.id} value={answer.id}>
                            {answer.question}
                          </option>
                        ))}
                      </select>
                    </label>
                    <button
                      type="button"
                      className="btn btn-ghost btn-sm"
                      disabled={!awake}
                      onClick={() => setClosing(question)}
                    >
                      Close it without an answer
                    </button>
                  </div>
                )}
              </div>
            </li>
          ))}
        </ul>
      </section>
      {desk.unpublished.length > 0 ? (
        <section aria-labelledby="unpublished" className="mb-8">
          <h2 id="unpublished" className="mb-2">
            Answered to one, not yet for all
          </h2>
          <ul className="ledger">
            {desk.unpublished.map((answer) => (
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
                    request('POST', `/api/shelf/answers/${answer.id}/publish`).then(
                      finished('It is on the shelf for all.'),
                      (problem: unknown) => setError(wordsOf(problem)),
                    );
                  }}
                >
                  Publish to all
                </button>
              </li>
            ))}
          </ul>
        </section>
      ) : null}
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
        <NewSubject subjects={subjects} onDone={() => void refresh()} />
      </section>
      {closing ? (
        <SayWhy
          title="Close it without an answer"
          label={`A word to ${closing.by}`}
          button="Close it"
          needed
          onSay={async (word) => {
            await request('POST', `/api/shelf/questions/${closing.id}/close`, { word });
            finished(`${closing.by} has been told.`)();
          }}
          onClose={() => setClosing(undefined)}
        />
      ) : null}
    </>
  );
}
