import type { Forecast } from '../../core/sends/forecast.ts';
import type { Rehearsal } from '../../core/sends/rehearsal.ts';
import { timeWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { Bands } from '../write/Coming.tsx';

function Chase({ forecast, zone, nowMs }: { forecast: Forecast; zone: string; nowMs: number }) {
  if (forecast.chases.dues.length === 0) return null;
  return (
    <>
      <h2 className="mt-6 mb-2">The chase</h2>
      <p>To those of {people(forecast.people)} who have not answered by then:</p>
      <ul>
        {forecast.chases.dues.map((dueMs) => (
          <li key={dueMs} className="figure">
            <Moment at={dueMs} zone={zone} nowMs={nowMs} />
          </li>
        ))}
      </ul>
      {forecast.chases.listMs === null ? null : (
        <p>
          The owners of their groups are told who is missing at{' '}
          <span className="figure">
            <Moment at={forecast.chases.listMs} zone={zone} nowMs={nowMs} />
          </span>
          .
        </p>
      )}
    </>
  );
}

/** What is wrong with a send, whom it would chase, and when it goes. */
export function Findings({ found, zone, nowMs }: { found: Rehearsal; zone: string; nowMs: number }) {
  const { forecast } = found;
  return (
    <section aria-labelledby="wrong">
      <h2 id="wrong" className="mb-2">
        What is wrong with it
      </h2>
      {found.problems.length === 0 && found.warnings.length === 0 ? (
        <p className="text-success">Nothing. It can go out as it is.</p>
      ) : (
        <ul>
          {found.problems.map((problem) => (
            <li key={problem.field + problem.detail} className="border-t border-base-300 py-2 text-error">
              {problem.detail}
            </li>
          ))}
          {found.warnings.map((warning) => (
            <li key={warning.detail} className="border-t border-base-300 py-2 text-warning">
              {warning.detail}
            </li>
          ))}
        </ul>
      )}
      <Chase forecast={forecast} zone={zone} nowMs={nowMs} />
      <h2 className="mt-6 mb-2">When</h2>
      <p>
        {forecast.span === null ? (
          'It would never go out.'
        ) : forecast.span.lastMs > forecast.span.firstMs ? (
          'By each reader’s clock:'
        ) : (
          <>
            <span className="figure">
              <Moment at={forecast.span.firstMs} zone={zone} nowMs={nowMs} />
            </span>{' '}
            your time, <span className="figure">{timeWords(forecast.span.firstMs, 'UTC')}</span> UTC
            {forecast.coming.length > 0 ? ', and then by its rule' : ''}.
          </>
        )}
      </p>
      <Bands forecast={forecast} zone={zone} />
    </section>
  );
}
