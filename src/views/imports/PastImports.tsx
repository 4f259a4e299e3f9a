import { importWords, type ImportSummary } from '../../core/imports/import.ts';
import { nearWords, shortDate } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';

const stateWords = (each: ImportSummary, zone: string, nowMs: number): string => {
  if (each.state === 'compared') return 'not brought in yet';
  if (each.state === 'undone' && each.undoneMs !== null)
    return `taken back ${nearWords(each.undoneMs, zone, nowMs)}`;
  return each.undoUntilMs !== null && each.undoUntilMs > nowMs
    ? `can be undone until ${nearWords(each.undoUntilMs, zone, nowMs)}`
    : 'brought in';
};

/** The lists that were brought in lately, or wait to be. */
export function PastImports({ past, zone, nowMs }: { past: ImportSummary[]; zone: string; nowMs: number }) {
  if (past.length === 0) return null;
  return (
    <section aria-labelledby="past" className="mt-8">
      <h2 id="past" className="mb-2">
        Lists until now
      </h2>
      <ul className="ledger">
        {past.map((each) => (
          <li key={each.id}>
            <time className="margin">{shortDate(each.appliedMs ?? each.madeMs, zone)}</time>
            <span>
              <a className="link-quiet font-semibold" href={`/people/import/${each.id}`} dir="auto">
                {each.fileName}
              </a>
              <span className="block text-sm text-quiet">
                {count(each.rows, 'row', 'rows')}, {each.by}
                {each.state === 'compared' ? `: ${importWords(each)}` : ''}
              </span>
            </span>
            <span className="state text-sm text-quiet">{stateWords(each, zone, nowMs)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
