import type { Found } from '../../core/search/query.ts';
import { momentWords, shortDate } from '../../core/timing/words.ts';

/** Pieces of a text, plain and marked in turn. */
function Marked({ pieces }: { pieces: readonly string[] }) {
  return pieces.map((piece, i) =>
    i % 2 === 1 ? (
      <mark key={i} className="bg-warning/25 text-inherit">
        {piece}
      </mark>
    ) : (
      piece
    ),
  );
}

/** What was found, with the words that were sought marked. */
export function Results({ found, zone, nowMs }: { found: readonly Found[]; zone: string; nowMs: number }) {
  return (
    <ul className="ledger">
      {found.map((each) => (
        <li key={each.path}>
          <time
            className="margin"
            dateTime={new Date(each.atMs).toISOString()}
            title={momentWords(each.atMs, zone, nowMs)}
          >
            {shortDate(each.atMs, zone)}
          </time>
          <div>
            <a className="link-quiet text-lg font-semibold" href={each.path} dir="auto">
              <Marked pieces={each.title} />
            </a>
            <p dir="auto">
              <Marked pieces={each.extract} />
            </p>
            <p className="text-sm text-quiet">
              <span dir="auto">{each.author}</span>
              {each.category === '' ? '' : ` · ${each.category}`}
              {each.asks ? ' · asks something' : ''}
            </p>
          </div>
          <div className="state text-sm text-quiet">{each.where}</div>
        </li>
      ))}
    </ul>
  );
}
