import { askingKind } from '../../core/asks/askWords.ts';
import { tallyWords } from '../../core/asks/roll.ts';
import type { SendPage } from '../../core/sends/send.ts';
import { momentWords, timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { FillLine } from '../../ui/FillLine.tsx';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { StateMark } from '../../ui/StateMark.tsx';

/** What a send is, and when it goes. */
export function Facts({ row, zone, now }: { row: SendPage['row']; zone: string; now: number }) {
  return (
    <>
      <p className="mb-1 flex flex-wrap gap-x-4">
        <StateMark state={row.state} /> <ImportanceWord importance={row.importance} />
      </p>
      <h1 dir="auto">{row.title}</h1>
      <p className="mt-2 max-w-3xl text-lg">{row.sentence}</p>
      <p className="mt-1 text-quiet">
        Planned by {row.author}.{' '}
        {row.endsMs > row.dueMs
          ? `Due from ${momentWords(row.dueMs, zone, now)} to ${momentWords(row.endsMs, zone, now)} your time, by each reader’s clock.`
          : `Due ${momentWords(row.dueMs, zone, now)} your time, ${timeWords(row.dueMs, 'UTC', true)} UTC.`}
        {row.recurs
          ? ` One of what recurs${row.recurs.state === 'paused' ? ', which is paused' : row.recurs.state === 'ended' ? ', which has ended' : ''}${row.recurs.moved ? '; it was moved from its rule' : ''}.`
          : ''}
        {row.kind === 'test' ? ' A test, to its author alone.' : ''}
        {row.chases === null ? null : (
          <>
            {' '}
            A chase of{' '}
            <a className="link-quiet" href={`/answers/${row.chases}`}>
              what was asked
            </a>
            .
          </>
        )}
      </p>
    </>
  );
}

/** The boards on which it stands. */
export function Stands({ posts }: { posts: SendPage['posts'] }) {
  if (posts.length === 0) return null;
  return (
    <section className="my-6 max-w-3xl" aria-labelledby="places">
      <h2 id="places">Where it stands</h2>
      <ul>
        {posts.map((post) => (
          <li key={post.id} className="border-t border-base-300">
            <a className="link-quiet inline-block py-2" href={`/posts/${post.id}`}>
              {post.board}
              {post.parts > 1 ? `, part ${post.part} of ${post.parts}` : ''}
            </a>
            {post.state === 'up' ? '' : ` (${post.state})`}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** How many have answered what it asks. */
export function Answers({ row }: { row: SendPage['row'] }) {
  if (!row.roll || row.roll.asked === 0) return null;
  return (
    <section className="my-6 max-w-3xl" aria-labelledby="asked">
      <h2 id="asked" className="mb-2">
        Answers
      </h2>
      <FillLine tally={row.roll} />
      <p className="mt-1">
        <a className="link-quiet" href={`/answers/${row.occurrenceId}`}>
          {tallyWords(row.roll, askingKind(row.asks))}
        </a>
      </p>
    </section>
  );
}

/** The mail of it that did not get through, and a way to try it again. */
export function Troubles({
  page,
  zone,
  busy,
  onRetry,
}: {
  page: SendPage;
  zone: string;
  busy: boolean;
  onRetry: () => void;
}) {
  if (page.troubles.length === 0) return null;
  const failed = page.counts
    .filter((each) => each.method === 'mail' && each.state === 'failed')
    .reduce((sum, each) => sum + each.n, 0);
  return (
    <section className="my-6" aria-labelledby="trouble">
      <div className="mb-2 flex flex-wrap items-center gap-4">
        <h2 id="trouble">Mail that did not get through</h2>
        {failed > 0 ? (
          <button type="button" className="btn btn-outline" disabled={busy} onClick={onRetry}>
            Try {count(failed, 'failed mail', 'failed mails')} again
          </button>
        ) : null}
      </div>
      <p className="mb-2 text-quiet">All of them have it in the inbox.</p>
      <ul className="ledger">
        {page.troubles.map((trouble) => (
          <li key={trouble.personId}>
            <span className="margin">
              {trouble.tryMs === null ? '' : <time>{timeWords(trouble.tryMs, zone, true)}</time>}
            </span>
            <span>
              <span dir="auto">{trouble.name}</span>{' '}
              <span className="text-sm text-quiet">{trouble.mail}</span>
              <span className="block text-sm text-quiet">{trouble.reason}</span>
            </span>
            <span className={`state ${trouble.state === 'failed' ? 'text-error' : 'text-warning'}`}>
              {trouble.state === 'failed'
                ? 'failed'
                : `tried ${count(trouble.attempts, 'time', 'times')}, tries again`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
