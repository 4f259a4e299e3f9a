import { useState } from 'react';
import { EMPTY_DOCUMENT, type Doc } from '../../core/content/document.ts';
import type { Subject } from '../../core/shelf/shelf.ts';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { Editor } from '../../ui/Editor.tsx';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';

export interface DraftAnswer {
  question: string;
  document: Doc;
  subjectId: number;
  occurrenceId: number | null;
  /** The title of the announcement that said it. */
  announcement: string | null;
  published: boolean;
}

/** Subjects in order, each narrower one under its own. */
export const inOrder = (subjects: readonly Subject[]): Subject[] =>
  subjects
    .filter((each) => each.parentId === null)
    .flatMap((each) => [each, ...subjects.filter((other) => other.parentId === each.id)]);

/** Writes an answer, or changes one; it may settle the question of somebody. */
export function AnswerForm({
  first,
  answerId,
  settles,
  subjects,
  boards = [],
  onDone,
  onCancel,
}: {
  first?: DraftAnswer;
  answerId?: number;
  settles?: { id: number; text: string; by: string; named: boolean };
  subjects: readonly Subject[];
  /** Where it can be answered for all besides. */
  boards?: readonly { id: number; name: string }[];
  onDone: (id: number | undefined) => void;
  onCancel: () => void;
}) {
  const [answer, setAnswer] = useState<DraftAnswer>(
    first ?? {
      question: settles?.text.slice(0, 200) ?? '',
      document: EMPTY_DOCUMENT,
      subjectId: 0,
      occurrenceId: null,
      announcement: null,
      published: true,
    },
  );
  const [boardId, setBoardId] = useState<number | null>(null);
  const [problem, setProblem] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const set = (part: Partial<DraftAnswer>): void => setAnswer((now) => ({ ...now, ...part }));
  const wrong = (field: string): string | undefined =>
    problem instanceof ApiProblem ? problem.about(field) : undefined;
  const save = async (): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    const body = { ...answer, settles: settles?.id ?? null, boardId };
    try {
      if (answerId === undefined) {
        const { id } = await request('POST', '/api/shelf/answers', body);
        onDone(id);
      } else {
        await request('PUT', `/api/shelf/answers/${answerId}`, body);
        onDone(answerId);
      }
    } catch (error) {
      setProblem(error);
      setBusy(false);
    }
  };
  const told = ['question', 'document', 'subjectId'].some((field) => wrong(field) !== undefined);
  return (
    <form
      className="flex flex-col gap-3 border border-base-300 bg-base-100 p-4"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      {settles ? (
        <p className="border-l-4 border-info px-3">
          {settles.by} asked: <q dir="auto">{settles.text}</q>{' '}
          <span className="text-sm text-quiet">
            {settles.named
              ? 'They may be named where it is answered for all.'
              : 'They are not named where it is answered for all.'}
          </span>
        </p>
      ) : null}
      <label className="flex flex-col gap-1">
        The question it answers
        <input
          className="input w-full"
          value={answer.question}
          maxLength={200}
          aria-invalid={wrong('question') !== undefined}
          onChange={(event) => set({ question: event.target.value })}
          dir="auto"
        />
        {wrong('question') === undefined ? null : <span className="text-error">{wrong('question')}</span>}
      </label>
      <Editor
        plain
        label="The answer"
        document={answer.document}
        onChange={(document) => set({ document })}
      />
      {wrong('document') === undefined ? null : <span className="text-error">{wrong('document')}</span>}
      <div className="grid gap-3 sm:grid-cols-2">
        <label className="flex flex-col gap-1">
          Subject
          <select
            className="select w-full"
            value={answer.subjectId === 0 ? '' : answer.subjectId}
            aria-invalid={wrong('subjectId') !== undefined}
            onChange={(event) => set({ subjectId: Number(event.target.value) })}
          >
            <option value="">choose one</option>
            {inOrder(subjects).map((subject) => (
              <option key={subject.id} value={subject.id}>
                {subject.parentId === null ? subject.name : `  ${subject.name}`}
              </option>
            ))}
          </select>
          {wrong('subjectId') === undefined ? null : <span className="text-error">{wrong('subjectId')}</span>}
        </label>
        {answer.occurrenceId === null ? (
          <NameSearch
            label="The announcement that said it, if any"
            from="/api/shelf/announcements"
            limits="Only what has gone out is found, by its title."
            onChoose={(found) => set({ occurrenceId: found.id, announcement: found.name })}
          />
        ) : (
          <p className="flex flex-col gap-1">
            The announcement that said it
            <span className="flex min-h-11 items-center gap-2">
              <strong dir="auto">{answer.announcement ?? `No. ${answer.occurrenceId}`}</strong>
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                onClick={() => set({ occurrenceId: null, announcement: null })}
              >
                None
              </button>
            </span>
          </p>
        )}
      </div>
      <label className="flex min-h-11 cursor-pointer items-center gap-3">
        <input
          type="checkbox"
          className="checkbox checkbox-primary"
          checked={answer.published}
          onChange={(event) => set({ published: event.target.checked })}
        />
        On the shelf for all{settles ? '; otherwise only for whoever asked' : ''}
      </label>
      {answerId === undefined && boards.length > 0 ? (
        <label className="flex max-w-md flex-col gap-1">
          Answer it on a board, too
          <select
            className="select w-full"
            value={boardId ?? ''}
            onChange={(event) => setBoardId(event.target.value === '' ? null : Number(event.target.value))}
          >
            <option value="">on none</option>
            {boards.map((board) => (
              <option key={board.id} value={board.id}>
                {board.name}
              </option>
            ))}
          </select>
        </label>
      ) : null}
      {problem === undefined || told ? null : <Notice tone="error">{wordsOf(problem)}</Notice>}
      <div className="flex flex-wrap gap-3">
        <button className="btn btn-primary" disabled={busy}>
          {settles ? 'Send the answer' : answerId === undefined ? 'Put it on the shelf' : 'Save the change'}
        </button>
        <button type="button" className="btn btn-ghost" onClick={onCancel}>
          Leave it
        </button>
      </div>
    </form>
  );
}
