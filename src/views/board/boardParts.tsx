import type { Post } from '../../core/boards/board.ts';
import type { BoardView } from '../../core/boards/reading.ts';
import { dateWords } from '../../core/timing/words.ts';
import { Notice } from '../../ui/Notice.tsx';
import { PostBody } from '../../ui/PostBody.tsx';
import { PostEntry } from './PostEntry.tsx';

/** Posts by day, each once, the latest first. */
export function byDay(posts: Iterable<Post>, zone: string, nowMs: number): Map<string, Post[]> {
  const days = new Map<string, Post[]>();
  const shown = new Set<number>();
  for (const post of posts) {
    if (shown.has(post.id)) continue;
    shown.add(post.id);
    const day = dateWords(post.postedMs, zone, nowMs);
    days.set(day, [...(days.get(day) ?? []), post]);
  }
  return days;
}

/** What is said of a board that is not seen any more. */
export function NoMore() {
  return (
    <>
      <h1>Boards</h1>
      <Notice tone="info">
        This board is not yours to see any more. <a href="/boards">To the boards that are yours</a>
      </Notice>
    </>
  );
}

/** What one has written here oneself and is not up. */
export function OwnWaiting({ posts, zone, nowMs }: { posts: Post[]; zone: string; nowMs: number }) {
  if (posts.length === 0) return null;
  return (
    <section aria-labelledby="own" className="mb-8 bg-base-100 px-4 pt-3 pb-4">
      <h2 id="own" className="mb-2">
        Yours, not up
      </h2>
      {posts.map((post) => (
        <article key={post.id} aria-label={post.title} className="border-t border-base-300 py-3">
          <PostBody post={post} zone={zone} nowMs={nowMs} level={3} linked />
        </article>
      ))}
    </section>
  );
}

/** The posts of a board by day. */
export function Days({
  days,
  view,
  zone,
  nowMs,
  fresh,
  mayPin,
  mayReact,
  onPin,
  onError,
}: {
  days: ReadonlyMap<string, Post[]>;
  view: BoardView;
  zone: string;
  nowMs: number;
  /** Those that were new as one came. */
  fresh: ReadonlySet<number>;
  mayPin: boolean;
  mayReact: boolean;
  onPin: (post: Post) => void;
  onError: (problem: unknown) => void;
}) {
  return (
    <>
      {days.size === 0 ? (
        <p className="text-quiet">
          {view.only === 'unread'
            ? 'You have read all of it.'
            : view.until === undefined
              ? 'Nothing has been posted here yet.'
              : 'Nothing was posted here until then.'}
        </p>
      ) : null}
      {[...days].map(([day, list]) => (
        <section key={day} className="mb-6">
          <h2 className="mb-1 text-base text-quiet">{day}</h2>
          <ul className="ledger">
            {list.map((post) => (
              <PostEntry
                key={post.id}
                post={post}
                zone={zone}
                nowMs={nowMs}
                fresh={fresh.has(post.id)}
                mayPin={mayPin}
                mayReact={mayReact}
                onPin={() => onPin(post)}
                onError={onError}
              />
            ))}
          </ul>
        </section>
      ))}
    </>
  );
}
