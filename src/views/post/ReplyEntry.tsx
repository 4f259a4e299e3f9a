import { useState } from 'react';
import type { NewReply, Reply } from '../../core/boards/board.ts';
import { momentWords, shortDate, timeWords } from '../../core/timing/words.ts';
import { bytesWords } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Matter } from '../../ui/Matter.tsx';
import { Previews } from '../../ui/PostBody.tsx';
import { Reactions } from '../../ui/Reactions.tsx';
import { SayWhy } from '../../ui/SayWhy.tsx';
import { EarlierTexts } from './EarlierTexts.tsx';
import { ReplyForm } from './ReplyForm.tsx';

type Asked = 'report' | 'hidden' | 'deleted';

const ASKS: Record<Asked, { title: string; label: string; button: string }> = {
  report: { title: 'Report this reply', label: 'What is wrong with it?', button: 'Report it' },
  hidden: { title: 'Hide this reply', label: 'Why? Its author reads this', button: 'Hide it' },
  deleted: { title: 'Delete this reply', label: 'Why? Its author reads this', button: 'Delete it' },
};

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
            <p className="text-sm text-quiet">
              <a className="link-quiet font-semibold" href={`/person/${reply.authorId}`} dir="auto">
                {reply.authorName}
              </a>
              {reply.editedMs === null ? null : (
                <span title={momentWords(reply.editedMs, zone, nowMs)}> · edited</span>
              )}
            </p>
            {reply.state === 'hidden' ? (
              <p className="my-1 border-l-4 border-warning bg-base-200 px-3 py-1 text-sm">
                <strong className="text-warning">Hidden by a moderator.</strong>{' '}
                {reply.word ? (
                  <>
                    {reply.word.by}: <q>{reply.word.text}</q>
                  </>
                ) : null}
              </p>
            ) : null}
            <Matter html={reply.html} />
            {reply.files.length > 0 ? (
              <ul className="mt-1">
                {reply.files.map((file) => (
                  <li key={file.key}>
                    <a className="link-quiet" href={file.href} download>
                      {file.name}
                    </a>{' '}
                    <span className="text-sm text-quiet">{bytesWords(file.bytes)}</span>
                  </li>
                ))}
              </ul>
            ) : null}
            <Previews previews={reply.previews} />
            <div className="mt-1 flex flex-wrap items-center gap-x-2">
              <Reactions
                subject="reply"
                id={reply.id}
                counts={reply.reactions}
                may={may.react && reply.state === 'up'}
                onError={onError}
              />
              {reply.own && reply.state === 'up' ? (
                <>
                  {may.reply ? (
                    <button
                      type="button"
                      className="btn btn-ghost btn-sm"
                      onClick={() =>
                        void request('GET', `/api/replies/${reply.id}`).then(setEditing, onError)
                      }
                    >
                      Change
                    </button>
                  ) : null}
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    onClick={() => void act(() => request('DELETE', `/api/replies/${reply.id}`))}
                  >
                    Take back
                  </button>
                </>
              ) : null}
              {!reply.own && reply.state === 'up' && !may.moderate ? (
                <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsked('report')}>
                  Report
                </button>
              ) : null}
              {may.moderate && !reply.own ? (
                <>
                  {reply.state === 'up' ? (
                    <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsked('hidden')}>
                      Hide
                    </button>
                  ) : (
                    <button
                      type="button"
                      className="btn btn-ghost btn-sm"
                      onClick={() =>
                        void act(() => request('POST', `/api/replies/${reply.id}/decide`, { to: 'up' }))
                      }
                    >
                      Show again
                    </button>
                  )}
                  <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsked('deleted')}>
                    Delete
                  </button>
                </>
              ) : null}
              {reply.editedMs !== null && (may.moderate || reply.own) ? (
                <EarlierTexts path={`/api/replies/${reply.id}/texts`} zone={zone} nowMs={nowMs} />
              ) : null}
            </div>
          </>
        )}
        {asked ? (
          <SayWhy
            {...ASKS[asked]}
            needed
            onSay={async (word) => {
              if (asked === 'report')
                await request('POST', `/api/replies/${reply.id}/report`, { reason: word });
              else await request('POST', `/api/replies/${reply.id}/decide`, { to: asked, word });
              onChanged();
            }}
            onClose={() => setAsked(undefined)}
          />
        ) : null}
      </article>
    </li>
  );
}
