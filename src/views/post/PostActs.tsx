import type { NewPost, PostPage } from '../../core/boards/board.ts';
import type { ModeratorDecision } from '../../core/boards/decision.ts';
import { request } from '../../ui/api.ts';
import { EarlierTexts } from './EarlierTexts.tsx';
import { Following } from './Following.tsx';
import type { Asked } from './moderation.ts';

/** What opens of itself: a dialog about the post. */
export type PostDialog = 'pin' | 'pass on' | 'take back';

interface Acts {
  page: PostPage;
  awake: boolean;
  /** Does something and reads the post again. */
  act: (work: () => Promise<unknown>) => void;
  decide: (decision: ModeratorDecision) => Promise<unknown>;
  onAsk: (asked: Asked) => void;
  onDialog: (dialog: PostDialog) => void;
}

/** What moderators do with a post that waits for them. */
function HeldActs({ page, awake, act, decide, onAsk }: Acts) {
  if (!page.moderating || page.post.state !== 'held') return null;
  return (
    <>
      <button
        type="button"
        className="btn btn-primary btn-sm mr-2"
        disabled={!awake}
        onClick={() => act(() => decide('approve'))}
      >
        Let it go up
      </button>
      <button type="button" className="btn btn-outline btn-sm mr-2" onClick={() => onAsk('return')}>
        Give it back with a word
      </button>
      <button type="button" className="btn btn-ghost btn-sm" onClick={() => onAsk('decline')}>
        Decline
      </button>
    </>
  );
}

/** What moderators do with a post that is up, or was. */
function ModeratorActs({ page: { moderating, post }, act, decide, onAsk }: Acts) {
  if (!moderating) return null;
  return (
    <>
      {post.state === 'up' ? (
        <>
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            onClick={() => act(() => decide(post.locked ? 'unlock' : 'lock'))}
          >
            {post.locked ? 'Take replies again' : 'Close replies'}
          </button>
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => onAsk('hide')}>
            Hide
          </button>
        </>
      ) : null}
      {post.state === 'hidden' ? (
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => act(() => decide('show'))}>
          Show again
        </button>
      ) : null}
      {post.own ? null : (
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => onAsk('delete')}>
          Delete
        </button>
      )}
    </>
  );
}

/** What whoever wrote a post, or may place it, does with it. */
function PlacingActs(acts: Acts & { shelves: boolean; editing: boolean; onEdit: () => void }) {
  const { page, awake, act, onDialog, shelves, editing, onEdit } = acts;
  const { post } = page;
  const changeable = ['up', 'held', 'returned'].includes(post.state) && !editing && !post.thanks;
  return (
    <>
      {page.own && changeable ? (
        <button type="button" className="btn btn-ghost btn-sm" disabled={!awake} onClick={onEdit}>
          Change
        </button>
      ) : null}
      {page.own ? (
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          disabled={!awake}
          onClick={() => onDialog('take back')}
        >
          Take back
        </button>
      ) : null}
      {page.pinning ? (
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          disabled={!awake}
          onClick={() =>
            post.pinned
              ? act(() => request('PUT', `/api/posts/${post.id}/pin`, { pinned: false }))
              : onDialog('pin')
          }
        >
          {post.pinned ? 'Unpin' : 'Pin'}
        </button>
      ) : null}
      {page.passableTo.length > 0 ? (
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          disabled={!awake}
          onClick={() => onDialog('pass on')}
        >
          Pass on
        </button>
      ) : null}
      {shelves ? (
        <a className="btn btn-ghost btn-sm" href={`/shelf/desk?post=${post.id}`}>
          Put on the shelf
        </a>
      ) : null}
    </>
  );
}

/** What can be done with a post by whoever reads it. */
export function PostActs({
  zone,
  nowMs,
  shelves,
  editing,
  onEdit,
  onError,
  ...acts
}: Acts & {
  zone: string;
  nowMs: number;
  /** Whether they write the shelf. */
  shelves: boolean;
  editing: boolean;
  onEdit: (draft: NewPost) => void;
  onError: (problem: unknown) => void;
}) {
  const { page, awake, act, onAsk } = acts;
  const { post, moderating } = page;
  return (
    <div
      className="my-3 -ml-3 flex flex-wrap gap-x-1"
      role="group"
      aria-label="What can be done with this post"
    >
      <HeldActs {...acts} />
      <PlacingActs
        {...acts}
        shelves={shelves}
        editing={editing}
        onEdit={() => void request('GET', `/api/posts/${post.id}/draft`).then(onEdit, onError)}
      />
      <Following
        following={page.following}
        awake={awake}
        onChoose={(choice) => act(() => request('PUT', `/api/posts/${post.id}/follow`, { choice }))}
      />
      {!post.own && !moderating && post.state === 'up' ? (
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => onAsk('report')}>
          Report
        </button>
      ) : null}
      <ModeratorActs {...acts} />
      {post.editedMs !== null && (moderating || post.own) ? (
        <EarlierTexts path={`/api/posts/${post.id}/texts`} zone={zone} nowMs={nowMs} />
      ) : null}
    </div>
  );
}
