import type { ReactNode } from 'react';
import type { PersonPage } from '../../core/people/page.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';

/** One thing known of somebody: what it is, and what it says. */
export function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="flex flex-wrap gap-x-4 border-b border-base-300 py-2">
      <dt className="w-40 text-quiet">{name}</dt>
      <dd className="min-w-0 grow basis-60" dir="auto">
        {children}
      </dd>
    </div>
  );
}

/** What somebody looks after or may write to, each with its page. */
export const Links = ({ found, at }: { found: readonly { id: number; name: string }[]; at: string }) =>
  found.map((each, i) => (
    <span key={each.id}>
      {i === 0 ? '' : ', '}
      <a className="link-quiet" href={`${at}/${each.id}`}>
        {each.name}
      </a>
    </span>
  ));

/** What was done with somebody, or by them about themselves. */
export function History({ page, zone }: { page: PersonPage; zone: string }) {
  return (
    <section aria-labelledby="history" className="mb-8">
      <h2 id="history" className="mb-2">
        What was done
      </h2>
      {page.history.length === 0 ? (
        <p className="border-y border-base-300 py-3 text-quiet">Nothing is written down yet.</p>
      ) : (
        <ul className="ledger">
          {page.history.map((deed, at) => (
            <li key={at}>
              <time className="margin">{shortDate(deed.atMs, zone)}</time>
              <span dir="auto">
                {deed.by ?? 'Clear Bell'} {deed.words}
              </span>
              <span className="state text-sm text-quiet">{timeWords(deed.atMs, zone)}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
