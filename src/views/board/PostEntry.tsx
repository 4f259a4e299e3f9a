import type { Post } from '../../core/boards/board.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { PinWords, PostBody } from '../../ui/PostBody.tsx';
import { Reactions } from '../../ui/Reactions.tsx';
import { useAwake } from '../../ui/useAwake.ts';

/** A post in the ledger of a board. */
export function PostEntry({
  post,
  zone,
  nowMs,
  dated,
  fresh,
  mayPin,
  mayReact,
  onPin,
  onMove,
  onError,
}: {
  post: Post;
  zone: string;
  nowMs: number;
  dated: boolean;
  /** Whether its reader had not seen it when they came. */
  fresh: boolean;
  mayPin: boolean;
  mayReact: boolean;
  onPin: () => void;
  /** Moves it among what is pinned; nothing where it is not, or cannot be moved. */
  onMove?: ((by: -1 | 1) => void) | undefined;
  onError: (problem: unknown) => void;
}) {
  const awake = useAwake();
  return (
    <li id={`post-${post.id}`}>
      <time className="margin" dateTime={new Date(post.postedMs).toISOString()}>
        {dated ? <span className="block text-sm">{shortDate(post.postedMs, zone)}</span> : null}
        {timeWords(post.postedMs, zone)}
        {fresh ? <span className="block font-sans text-sm font-semibold text-primary">new</span> : null}
      </time>
      <article aria-label={post.title}>
        <PostBody post={post} zone={zone} nowMs={nowMs} level={3} linked />
        <div className="mt-3 flex flex-wrap items-center gap-3">
          <Reactions
            subject="post"
            id={post.id}
            counts={post.reactions}
            may={mayReact && post.state === 'up'}
            onError={onError}
          />
          {post.state === 'up' ? (
            <a className="link-quiet text-sm" href={`/posts/${post.id}#replies`}>
              {post.replies === 0 ? 'Open' : count(post.replies, 'reply', 'replies')}
            </a>
          ) : null}
        </div>
      </article>
      <div className="state text-right max-sm:text-left">
        <PinWords post={post} zone={zone} nowMs={nowMs} />
        {mayPin ? (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={!awake}
            onClick={onPin}
            aria-label={`${post.pinned ? 'Unpin' : 'Pin'} ${post.title}`}
          >
            {post.pinned ? 'Unpin' : 'Pin'}
          </button>
        ) : null}
        {onMove ? (
          <span className="block">
            <button
              type="button"
              className="btn btn-ghost btn-sm px-2"
              aria-label={`Move ${post.title} up`}
              onClick={() => onMove(-1)}
            >
              ↑
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-sm px-2"
              aria-label={`Move ${post.title} down`}
              onClick={() => onMove(1)}
            >
              ↓
            </button>
          </span>
        ) : null}
      </div>
    </li>
  );
}
