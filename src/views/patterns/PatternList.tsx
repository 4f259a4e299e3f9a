import type { PatternLine } from '../../core/patterns/page.ts';
import { count } from '../../core/words.ts';
import { holdsWords } from './Parts.tsx';

/** The patterns from which places are made. */
export default function PatternList({ patterns }: { patterns: PatternLine[] }) {
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Patterns</h1>
        <a className="btn btn-ghost" href="/boards">
          Boards
        </a>
      </div>
      <p className="mb-4 max-w-prose">
        What is set up again and again is kept once, and made in one go: its groups, boards, key links, pinned
        posts, forms and automations.
      </p>
      {patterns.length === 0 ? (
        <p className="max-w-prose text-quiet">
          There are none yet. Open a board that is set up well, then its settings, and press “Keep as a
          pattern”.
        </p>
      ) : (
        <ul className="ledger">
          {patterns.map((pattern) => (
            <li key={pattern.id}>
              <span className="margin figure">{pattern.places}</span>
              <span>
                <a className="link-quiet font-semibold" href={`/patterns/${pattern.id}`} dir="auto">
                  {pattern.name}
                </a>
                {pattern.about === '' ? null : (
                  <span className="block" dir="auto">
                    {pattern.about}
                  </span>
                )}
                <span className="block text-sm text-quiet">{holdsWords(pattern.holds)}</span>
              </span>
              <span className="state text-sm text-quiet">
                <span className="block">
                  {pattern.places === 0
                    ? 'no place made from it yet'
                    : `${count(pattern.places, 'place', 'places')} made from it`}
                </span>
                {pattern.behind > 0 ? (
                  <span className="text-warning">
                    {pattern.behind} without its last {pattern.behind === 1 ? 'change' : 'changes'}
                  </span>
                ) : null}
              </span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
