import { useState } from 'react';
import type { NewReply, Reply } from '../../core/boards/board.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';
import { request } from '../../ui/api.ts';
import { SayWhy } from '../../ui/SayWhy.tsx';
import { ReplyForm } from './ReplyForm.tsx';
import { ASKS, ReplyActs, ReplyText, type Asked } from './replyParts.tsx';

/** A reply in the ledger under its post. */
export function ReplyEntry({
  reply,
  postId,
  boardId,
  zone,
  nowMs,
  may,
  onChanged,
  onError,
}: {
  reply: Reply;
  postId: number;
  boardId: number;
  zone: string;
  nowMs: number;
  may: { react: boolean; moderate: boolean; reply: boolean };
  onChanged: () => void;
  onError: (problem: unknown) => void;
}) {
  const [editing, setEditing] = useState<NewReply>();
  const [asked, setAsked] = useState<Asked>();
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    try {
      await work();
      onChanged();
    } catch (problem) {
      onError(problem);
    }
  };
  const gone =
    reply.state === 'deleted'
      ? 'This reply was taken back or deleted.'
      : reply.state === 'hidden' && reply.html === ''
        ? 'This reply was hidden by a moderator.'
        : undefined;
  return (
    <li id={`reply-${reply.id}`}>
      <time className="margin" dateTime={new Date(reply.writtenMs).toISOString()}>
        <span className="block text-sm">{shortDate(reply.writtenMs, zone)}</span>
        {timeWords(reply.writtenMs, zone)}
      </time>
      <article aria-label={`Reply by ${reply.authorName}`} className="col-span-2 max-sm:col-span-1">
        {gone !== undefined ? (
          <p className="text-quiet">{gone}</p>
        ) : editing ? (
          <ReplyForm
            postId={postId}
            boardId={boardId}
            first={editing}
            replyId={reply.id}
            onDone={() => {
              setEditing(undefined);
              onChanged();
            }}
            onCancel={() => setEditing(undefined)}
          />
        ) : (
          <>
            <ReplyText reply={reply} zone={zone} nowMs={nowMs} />
            <ReplyActs
              reply={reply}
              zone={zone}
              nowMs={nowMs}
              may={may}
              onEdit={setEditing}
              onAsk={setAsked}
              onAct={(work) => void act(work)}
              onError={onError}
            />
          </>
        )}
        {asked ? (
          <SayWhy
            {...ASKS[asked]}
            needed
            onSay={async (note) => {
              if (asked === 'report')
                await request('POST', `/api/replies/${reply.id}/report`, { reason: note });
              else await request('POST', `/api/replies/${reply.id}/decide`, { to: asked, note });
              onChanged();
            }}
            onClose={() => setAsked(undefined)}
          />
        ) : null}
      </article>
    </li>
  );
}
