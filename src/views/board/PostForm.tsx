import { useRef, useState, type SubmitEvent } from 'react';
import type { Doc } from '../../core/content/document.ts';
import { ApiProblem, ask, newKey, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';

/** Plain lines as a document: a blank line parts paragraphs. */
function paragraphs(text: string): Doc {
  return {
    type: 'doc',
    content: text
      .split(/\n\s*\n/)
      .filter((part) => part.trim() !== '')
      .map((part) => ({
        type: 'paragraph' as const,
        content: part
          .trim()
          .split('\n')
          .flatMap((line, i) => [
            ...(i > 0 ? [{ type: 'hardBreak' as const }] : []),
            ...(line === '' ? [] : [{ type: 'text' as const, text: line }]),
          ]),
      })),
  };
}

/** Where somebody who may post writes straight to the board. */
export function PostForm({
  boardId,
  boardName,
  onPosted,
}: {
  boardId: number;
  boardName: string;
  onPosted: () => void;
}) {
  const [title, setTitle] = useState('');
  const [text, setText] = useState('');
  const [problem, setProblem] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const key = useRef<string | null>(null);

  const submit = async (event: SubmitEvent): Promise<void> => {
    event.preventDefault();
    setBusy(true);
    setProblem(undefined);
    // The same post keeps its key until it is up, so that pressing again after a lost answer posts it once.
    key.current ??= newKey();
    try {
      await ask('POST', `/api/boards/${boardId}/posts`, { title, document: paragraphs(text) }, key.current);
      key.current = null;
      setTitle('');
      setText('');
      onPosted();
    } catch (error) {
      setProblem(error);
    } finally {
      setBusy(false);
    }
  };
  const about = (field: string): string | undefined =>
    problem instanceof ApiProblem ? problem.about(field) : undefined;

  return (
    <details className="mb-6 border border-base-300 bg-base-100 px-4">
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold text-primary">
        Write on {boardName}
      </summary>
      <form className="flex flex-col gap-3 pb-4" onSubmit={(event) => void submit(event)} noValidate>
        <label className="flex flex-col gap-1">
          Title
          <input
            className="input w-full"
            value={title}
            onChange={(event) => setTitle(event.target.value)}
            aria-invalid={about('title') !== undefined}
            dir="auto"
          />
          {about('title') === undefined ? null : <span className="text-error">{about('title')}</span>}
        </label>
        <label className="flex flex-col gap-1">
          Text
          <textarea
            className="textarea w-full"
            rows={4}
            value={text}
            onChange={(event) => setText(event.target.value)}
            aria-invalid={about('document') !== undefined}
            dir="auto"
          />
          {about('document') === undefined ? null : <span className="text-error">{about('document')}</span>}
        </label>
        {problem !== undefined && !(problem instanceof ApiProblem && problem.errors.length > 0) ? (
          <Notice tone="error">{wordsOf(problem)}</Notice>
        ) : null}
        <div>
          <button className="btn btn-primary" disabled={busy}>
            Post on {boardName}
          </button>
        </div>
      </form>
    </details>
  );
}
