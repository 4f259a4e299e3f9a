import type { BoardLink, Post } from '../../core/boards/board.ts';
import { PinWords } from '../../ui/PostBody.tsx';
import { Sortable, useInOrder } from '../../ui/Sortable.tsx';
import { useAwake } from '../../ui/useAwake.ts';

interface Acts {
  zone: string;
  nowMs: number;
  mayPin: boolean;
  onUntil: (post: Post) => void;
  onUnpin: (post: Post) => void;
}

/** A pinned post as a line that leads to it: it stands in full where it was posted. */
function Line({
  post,
  order,
  zone,
  nowMs,
  mayPin,
  onUntil,
  onUnpin,
}: Acts & { post: Post; order?: ReturnType<typeof useInOrder> }) {
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

const LineInOrder = (props: Acts & { post: Post }) => <Line {...props} order={useInOrder(props.post.id)} />;

/** What stands at the head of a board: its key links and files, and what is pinned, each on a line. */
export function Pinned({
  pinned,
  links,
  onOrder,
  ...acts
}: Acts & { pinned: readonly Post[]; links: readonly BoardLink[]; onOrder: (ids: number[]) => void }) {
  if (pinned.length === 0 && links.length === 0) return null;
  return (
    <section aria-labelledby="pinned" className="mb-6 bg-base-100 px-4 pt-3 pb-1">
      <h2 id="pinned" className="mb-1 text-base">
        Pinned
      </h2>
      {links.length > 0 ? (
        <ul className="mb-1 flex flex-wrap gap-x-5" aria-label="Key links and files">
          {links.map((link) => (
            <li key={link.id}>
              <a
                className="link-quiet flex min-h-11 items-center font-semibold text-primary"
                href={link.url}
                rel="noopener noreferrer"
              >
                {link.label}
              </a>
            </li>
          ))}
        </ul>
      ) : null}
      <ul>
        {acts.mayPin && pinned.length > 1 ? (
          <Sortable
            ids={pinned.map((post) => post.id)}
            nameOf={(id) => pinned.find((post) => post.id === id)?.title ?? ''}
            onOrder={onOrder}
          >
            {pinned.map((post) => (
              <LineInOrder key={post.id} post={post} {...acts} />
            ))}
          </Sortable>
        ) : (
          pinned.map((post) => <Line key={post.id} post={post} {...acts} />)
        )}
      </ul>
    </section>
  );
}
