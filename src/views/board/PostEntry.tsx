import type { Post } from '../../core/boards/board.ts';
import { timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { PinWords, PostBody } from '../../ui/PostBody.tsx';
import { Reactions } from '../../ui/Reactions.tsx';
import { useAwake } from '../../ui/useAwake.ts';

/** A post in the ledger of a board. */
export function PostEntry({
  post,
  zone,
  nowMs,
  fresh,
  mayPin,
  mayReact,
  onPin,
  onError,
}: {
  post: Post;
  zone: string;
  nowMs: number;
  /** Whether its reader had not seen it when they came. */
  fresh: boolean;
  mayPin: boolean;
  mayReact: boolean;
  onPin: () => void;
  onError: (problem: unknown) => void;
}) {
  const awake = useAwake();
  return (
    <li id={`post-${post.id}`} data-unread={fresh ? post.id : undefined} data-fresh={fresh ? '' : undefined}>
      <time className="margin" dateTime={new Date(post.postedMs).toISOString()}>
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
      </div>
    </li>
  );
}
