import { useRef, useState } from 'react';
import { isBlankDocument } from '../../core/content/document.ts';
import type { NewReply } from '../../core/boards/board.ts';
import { EMPTY_DOCUMENT } from '../../core/content/document.ts';
import { ApiProblem, request, newKey, wordsOf } from '../../ui/api.ts';
import { FilesField } from '../../ui/Attached.tsx';
import { sendOrKeep, useKeptRequests } from '../../ui/keptRequests.ts';
import { LazyEditor } from '../../ui/LazyEditor.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { UNKEPT, useKeptText } from '../../ui/useKeptText.ts';

/** Where a reply is written, or written anew. What was written stays where it cannot be sent. */
export function ReplyForm({
  postId,
  boardId,
  first,
  replyId,
  denied = null,
  onDone,
  onCancel,
}: {
  postId: number;
  boardId: number;
  first?: NewReply;
  replyId?: number;
  /** Why one may not reply here now; null where one may. What was begun before stays. */
  denied?: string | null;
  onDone: () => void;
  onCancel?: () => void;
}) {
  const {
    text: reply,
    set: setReply,
    sent,
    unkept,
    back,
  } = useKeptText<NewReply>(
    replyId === undefined ? `reply:${postId}` : null,
    first ?? { document: EMPTY_DOCUMENT, files: [] },
  );
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
      let done: unknown;
      if (replyId === undefined)
        done = await sendOrKeep(`reply:${postId}`, `/api/posts/${postId}/replies`, reply, key.current);
      else await request('PUT', `/api/replies/${replyId}`, reply);
      key.current = null;
      sent();
      setTurn((now) => now + 1);
      if (done !== 'kept') onDone();
    } catch (error) {
      setProblem(error);
    } finally {
      setBusy(false);
    }
  };
  const waiting = useKeptRequests(`reply:${postId}`, onDone, (words) => setProblem(new Error(words)));
  const about = problem instanceof ApiProblem ? problem.about('document') : undefined;
  const reason =
    denied === null ? null : <p className="border-l-4 border-info bg-base-100 px-4 py-3">{denied}</p>;
  if (reason && isBlankDocument(reply.document) && reply.files.length === 0) return reason;
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
      noValidate
    >
      {reason}
      {reason ? <p className="text-quiet">What you wrote is kept here.</p> : null}
      <LazyEditor
        key={`${turn}${back ? 'b' : ''}`}
        plain
        label={replyId === undefined ? 'Your reply' : 'The reply'}
        names={`/api/boards/${boardId}/names`}
        document={reply.document}
        onChange={(document) => setReply({ ...reply, document })}
      />
      {replyId === undefined && waiting.length > 0 ? (
        <p role="status" className="font-semibold text-warning">
          {waiting.length === 1 ? 'A reply of yours is' : `${waiting.length} replies of yours are`} kept on
          this device, and sent when the connection is back or you have signed in again.
        </p>
      ) : null}
      {problem === undefined ? null : <Notice tone="error">{about ?? wordsOf(problem)}</Notice>}
      {unkept ? <Notice tone="warning">{UNKEPT}</Notice> : null}
      <div className="flex flex-wrap items-start gap-3">
        <button className="btn btn-primary" disabled={busy || denied !== null}>
          {replyId === undefined ? 'Reply' : 'Save the change'}
        </button>
        {replyId === undefined ? (
          <FilesField files={reply.files} onChange={(files) => setReply({ ...reply, files })} />
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
