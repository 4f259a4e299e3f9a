import type { BoardLink, Post } from '../../core/boards/board.ts';
import { lazily } from '../../ui/lazily.tsx';
import { Line, type Acts } from './PinnedLine.tsx';

// Only those who may pin put them in order.
const PinnedOrder = lazily(() => import('./PinnedOrder.tsx').then((module) => module.PinnedOrder));

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
          <PinnedOrder pinned={pinned} acts={acts} onOrder={onOrder} />
        ) : (
          pinned.map((post) => <Line key={post.id} post={post} {...acts} />)
        )}
      </ul>
    </section>
  );
}
