import type { NewReply, Reply } from '../../core/boards/board.ts';
import { momentWords } from '../../core/timing/words.ts';
import { bytesWords } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Matter } from '../../ui/Matter.tsx';
import { Previews } from '../../ui/PostBody.tsx';
import { Reactions } from '../../ui/Reactions.tsx';
import { EarlierTexts } from './EarlierTexts.tsx';

/** What is asked about a reply before it is done. */
export type Asked = 'report' | 'hidden' | 'deleted';

export const ASKS: Record<Asked, { title: string; label: string; button: string }> = {
  report: { title: 'Report this reply', label: 'What is wrong with it?', button: 'Report it' },
  hidden: { title: 'Hide this reply', label: 'Why? Its author reads this', button: 'Hide it' },
  deleted: { title: 'Delete this reply', label: 'Why? Its author reads this', button: 'Delete it' },
};

/** What a reply says, and by whom. */
export function ReplyText({ reply, zone, nowMs }: { reply: Reply; zone: string; nowMs: number }) {
  return (
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
          {reply.note ? (
            <>
              {reply.note.by}: <q>{reply.note.text}</q>
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
    </>
  );
}

/** What can be done with a reply by whoever reads it. */
export function ReplyActs({
  reply,
  zone,
  nowMs,
  may,
  onEdit,
  onAsk,
  onAct,
  onError,
}: {
  reply: Reply;
  zone: string;
  nowMs: number;
  may: { react: boolean; moderate: boolean; reply: boolean };
  onEdit: (text: NewReply) => void;
  onAsk: (what: Asked) => void;
  /** Does something, and has the page read again. */
  onAct: (work: () => Promise<unknown>) => void;
  onError: (problem: unknown) => void;
}) {
  return (
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
              onClick={() => void request('GET', `/api/replies/${reply.id}`).then(onEdit, onError)}
            >
              Change
            </button>
          ) : null}
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            onClick={() => onAct(() => request('DELETE', `/api/replies/${reply.id}`))}
          >
            Take back
          </button>
        </>
      ) : null}
      {!reply.own && reply.state === 'up' && !may.moderate ? (
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => onAsk('report')}>
          Report
        </button>
      ) : null}
      {may.moderate && !reply.own ? (
        <>
          {reply.state === 'up' ? (
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => onAsk('hidden')}>
              Hide
            </button>
          ) : (
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              onClick={() => onAct(() => request('POST', `/api/replies/${reply.id}/decide`, { to: 'up' }))}
            >
              Show again
            </button>
          )}
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => onAsk('deleted')}>
            Delete
          </button>
        </>
      ) : null}
      {reply.editedMs !== null && (may.moderate || reply.own) ? (
        <EarlierTexts path={`/api/replies/${reply.id}/texts`} zone={zone} nowMs={nowMs} />
      ) : null}
    </div>
  );
}
