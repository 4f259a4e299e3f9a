import { useRef, useState } from 'react';
import type { NewReply } from '../../core/boards/board.ts';
import { EMPTY_DOCUMENT } from '../../core/content/document.ts';
import { ApiProblem, ask, newKey, wordsOf } from '../../ui/api.ts';
import { FilesField } from '../../ui/Attached.tsx';
import { Editor } from '../../ui/Editor.tsx';
import { Notice } from '../../ui/Notice.tsx';

/** Where a reply is written, or written anew. What was written stays where it cannot be sent. */
export function ReplyForm({
  postId,
  boardId,
  first,
  replyId,
  onDone,
  onCancel,
}: {
  postId: number;
  boardId: number;
  first?: NewReply;
  replyId?: number;
  onDone: () => void;
  onCancel?: () => void;
}) {
  const [reply, setReply] = useState<NewReply>(first ?? { document: EMPTY_DOCUMENT, files: [] });
  const [problem, setProblem] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  // A new one for each reply, so that the editor begins empty again.
  const [turn, setTurn] = useState(0);
  const key = useRef<string | null>(null);
  const send = async (): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    key.current ??= newKey();
    try {
      if (replyId === undefined) await ask('POST', `/api/posts/${postId}/replies`, reply, key.current);
      else await ask('PUT', `/api/replies/${replyId}`, reply);
      key.current = null;
      setReply({ document: EMPTY_DOCUMENT, files: [] });
      setTurn((now) => now + 1);
      onDone();
    } catch (error) {
      setProblem(error);
    } finally {
      setBusy(false);
    }
  };
  const about = problem instanceof ApiProblem ? problem.about('document') : undefined;
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
      noValidate
    >
      <Editor
        key={turn}
        plain
        label={replyId === undefined ? 'Your reply' : 'The reply'}
        names={`/api/boards/${boardId}/names`}
        document={reply.document}
        onChange={(document) => setReply((now) => ({ ...now, document }))}
      />
      {problem === undefined ? null : <Notice tone="error">{about ?? wordsOf(problem)}</Notice>}
      <div className="flex flex-wrap items-start gap-3">
        <button className="btn btn-primary" disabled={busy}>
          {replyId === undefined ? 'Reply' : 'Save the change'}
        </button>
        {replyId === undefined ? (
          <FilesField files={reply.files} onChange={(files) => setReply((now) => ({ ...now, files }))} />
        ) : null}
        {onCancel ? (
          <button type="button" className="btn btn-ghost" onClick={onCancel}>
            Leave it
          </button>
        ) : null}
      </div>
    </form>
  );
}
