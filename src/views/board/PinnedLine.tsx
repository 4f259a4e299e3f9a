import type { CSSProperties, ReactNode } from 'react';
import type { Post } from '../../core/boards/board.ts';
import { PinWords } from '../../ui/PostBody.tsx';
import { useAwake } from '../../ui/useAwake.ts';

export interface Acts {
  zone: string;
  nowMs: number;
  mayPin: boolean;
  onUntil: (post: Post) => void;
  onUnpin: (post: Post) => void;
}

/** A pinned post as a line that leads to it: it stands in full where it was posted. */
export function Line({
  post,
  order,
  zone,
  nowMs,
  mayPin,
  onUntil,
  onUnpin,
}: Acts & {
  post: Post;
  order?: { ref: (element: HTMLElement | null) => void; style: CSSProperties; handle: ReactNode };
}) {
  const awake = useAwake();
  return (
    <li
      ref={order?.ref}
      style={order?.style}
      className="flex flex-wrap items-center gap-x-4 border-t border-base-300 bg-base-100 py-1"
    >
      <article aria-label={post.title} className="min-w-0 grow basis-72">
        <h3 className="text-base">
          <a className="link-quiet block py-1 font-semibold" href={`/posts/${post.id}`} dir="auto">
            {post.title}
          </a>
        </h3>
        <p className="truncate text-sm text-quiet" dir="auto">
          {post.excerpt}
        </p>
      </article>
      <div className="flex flex-wrap items-center gap-x-2">
        <PinWords post={post} zone={zone} nowMs={nowMs} here />
        {mayPin ? (
          <>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={!awake}
              onClick={() => onUntil(post)}
              aria-label={`Until when ${post.title} is pinned`}
            >
              Until …
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={!awake}
              onClick={() => onUnpin(post)}
              aria-label={`Unpin ${post.title}`}
            >
              Unpin
            </button>
          </>
        ) : null}
        {order?.handle}
      </div>
    </li>
  );
}
