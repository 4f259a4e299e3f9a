import type { ComponentProps } from 'react';
import type { Post } from '../../core/boards/board.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { useInOrder } from '../../ui/Sortable.tsx';
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
  order,
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
  /** Its place among what is pinned, where it can be moved. */
  order?: ReturnType<typeof useInOrder>;
  onError: (problem: unknown) => void;
}) {
  const awake = useAwake();
  return (
    <li
      id={`post-${post.id}`}
      ref={order?.ref}
      style={order?.style}
      className={order ? 'bg-base-100' : undefined}
    >
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
        {order?.handle}
      </div>
    </li>
  );
}

/** A pinned post that can be moved among the pinned ones. */
export const PostInOrder = (props: Omit<ComponentProps<typeof PostEntry>, 'order'>) => (
  <PostEntry {...props} order={useInOrder(props.post.id)} />
);
