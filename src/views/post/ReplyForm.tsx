import { useRef, useState } from 'react';
import { useWatch } from 'react-hook-form';
import type { NewReply } from '../../core/boards/board.ts';
import { EMPTY_DOCUMENT, isBlankDocument } from '../../core/content/document.ts';
import { request, newKey } from '../../ui/api.ts';
import { FilesField } from '../../ui/Attached.tsx';
import { UNKEPT, useKeptForm } from '../../ui/form/useKeptForm.ts';
import { sendOrKeep, useKeptRequests } from '../../ui/keptRequests.ts';
import { LazyEditor } from '../../ui/LazyEditor.tsx';
import { Notice } from '../../ui/Notice.tsx';

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
  const key = useRef<string | null>(null);
  const form = useKeptForm<NewReply>({
    keep: replyId === undefined ? `reply:${postId}` : null,
    values: first ?? { document: EMPTY_DOCUMENT, files: [] },
    shown: ['document'],
    send: async (reply) => {
      key.current ??= newKey();
      let done: unknown;
      if (replyId === undefined)
        done = await sendOrKeep(`reply:${postId}`, `/api/posts/${postId}/replies`, reply, key.current);
      else await request('PUT', `/api/replies/${replyId}`, reply);
      key.current = null;
      if (done !== 'kept') onDone();
    },
  });
  const [late, setProblem] = useState<string>();
  const [written, files] = useWatch({ control: form.control, name: ['document', 'files'] });
  const waiting = useKeptRequests(`reply:${postId}`, onDone, setProblem);
  const { isSubmitting, errors } = form.formState;
  const problem = errors.document?.message ?? errors.root?.message ?? late;
  const reason =
    denied === null ? null : <p className="border-l-4 border-info bg-base-100 px-4 py-3">{denied}</p>;
  if (reason && isBlankDocument(written) && files.length === 0) return reason;
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        setProblem(undefined);
        void form.submit(event);
      }}
      noValidate
    >
      {reason}
      {reason ? <p className="text-quiet">What you wrote is kept here.</p> : null}
      <LazyEditor
        key={form.turn}
        plain
        label={replyId === undefined ? 'Your reply' : 'The reply'}
        names={`/api/boards/${boardId}/names`}
        document={written}
        onChange={(document) => form.setValue('document', document, { shouldDirty: true })}
      />
      {replyId === undefined && waiting.length > 0 ? (
        <p role="status" className="font-semibold text-warning">
          {waiting.length === 1 ? 'A reply of yours is' : `${waiting.length} replies of yours are`} kept on
          this device, and sent when the connection is back or you have signed in again.
        </p>
      ) : null}
      {problem === undefined ? null : <Notice tone="error">{problem}</Notice>}
      {form.unkept ? <Notice tone="warning">{UNKEPT}</Notice> : null}
      <div className="flex flex-wrap items-start gap-3">
        <button className="btn btn-primary" disabled={isSubmitting || denied !== null}>
          {replyId === undefined ? 'Reply' : 'Save the change'}
        </button>
        {replyId === undefined ? (
          <FilesField
            files={files}
            onChange={(chosen) => form.setValue('files', chosen, { shouldDirty: true })}
          />
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
