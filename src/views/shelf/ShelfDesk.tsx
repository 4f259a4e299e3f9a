import { useState } from 'react';
import type { AskedQuestion, ShelfDesk as Desk, Subject } from '../../core/shelf/shelf.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { SayWhy } from '../../ui/SayWhy.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { done } from '../../ui/toast.ts';
import { AnswerForm, type DraftAnswer } from './AnswerForm.tsx';
import { OftenAndNever, OpenLine, Subjects, Unpublished } from './deskParts.tsx';

const TOPICS = ['shelf'];

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
  const { data: desk = first, error: failed } = useServer('/api/shelf/desk', { first, topics: TOPICS });
  const { data: subjects = firstSubjects } = useServer('/api/shelf/subjects', {
    first: firstSubjects,
    topics: TOPICS,
  });
  const [writing, setWriting] = useState<AskedQuestion | 'new' | undefined>(begun ? 'new' : undefined);
  const [closing, setClosing] = useState<AskedQuestion>();
  const [problem, setProblem] = useState<unknown>();
  const error = problem ?? failed;
  const refresh = (): Promise<void> => refetch('/api/shelf');
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
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
      {writing === 'new' ? form(undefined) : null}
      <section aria-labelledby="open" className="mt-4 mb-8">
        <h2 id="open" className="mb-2">
          {desk.open.length === 0 ? 'No question is open' : 'Open questions'}
        </h2>
        <ul className="ledger">
          {desk.open.map((question) => (
            <OpenLine
              key={question.id}
              question={question}
              answers={desk.all}
              zone={zone}
              form={writing !== 'new' && writing?.id === question.id ? form(question) : null}
              onAnswer={() => setWriting(question)}
              onClose={() => setClosing(question)}
              onPointed={finished(`${question.by} has been told.`)}
              onProblem={setProblem}
            />
          ))}
        </ul>
      </section>
      <Unpublished
        answers={desk.unpublished}
        onPublished={finished('It is on the shelf for all.')}
        onProblem={setProblem}
      />
      <OftenAndNever desk={desk} />
      <Subjects subjects={subjects} onAdded={() => void refresh()} />
      {closing ? (
        <SayWhy
          title="Close it without an answer"
          label={`A word to ${closing.by}`}
          button="Close it"
          needed
          onSay={async (reason) => {
            await request('POST', `/api/shelf/questions/${closing.id}/close`, { reason });
            finished(`${closing.by} has been told.`)();
          }}
          onClose={() => setClosing(undefined)}
        />
      ) : null}
    </>
  );
}
