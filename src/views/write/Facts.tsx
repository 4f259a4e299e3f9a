import type { Plan } from '../../core/plan/plan.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { Moment } from '../../ui/Moment.tsx';
import { people } from '../../core/words.ts';

/** What the plan would do, under its sentence: how many, when first and last, and what to be told of. */
export function Facts({
  forecast,
  plan,
  zone,
  nowMs,
}: {
  forecast: Forecast;
  plan: Plan;
  zone: string;
  nowMs: number;
}) {
  const missed = forecast.missed.reduce((sum, each) => sum + (each.kind === 'left' ? 0 : each.n), 0);
  return (
    <p aria-live="polite" className="text-sm">
      {forecast.people > 0 ? (
        <>
          Goes to <strong className="figure">{people(forecast.people)}</strong>, each once
          {plan.mail ? (
            <>
              , <strong className="figure">{forecast.byMail.toLocaleString('en-GB')}</strong> by mail too
            </>
          ) : null}
          .{' '}
        </>
      ) : forecast.boards.length > 0 ? (
        <>
          Can be read by <strong className="figure">{people(forecast.onBoards)}</strong> on{' '}
          {forecast.boards.length === 1 ? forecast.boards[0]?.name : `${forecast.boards.length} boards`}; to
          no inbox.{' '}
        </>
      ) : forecast.outside.length > 0 ? (
        'Goes to nobody here. '
      ) : (
        'Nobody is chosen yet. '
      )}
      {forecast.outside.length > 0 ? (
        <>
          Travels to{' '}
          {forecast.outside.length === 1
            ? forecast.outside[0]?.name
            : `${forecast.outside.length} outside places`}
          .{' '}
        </>
      ) : null}
      {missed > 0 ? <span className="text-warning">{missed} will be missed by mail. </span> : null}
      {forecast.span && plan.timing.kind !== 'now' ? (
        <span>
          {plan.timing.kind === 'recurring' ? 'Next ' : ''}
          {plan.timing.kind === 'recurring'
            ? ''
            : forecast.span.lastMs > forecast.span.firstMs
              ? 'From '
              : 'At '}
          <strong>
            <Moment at={forecast.span.firstMs} zone={zone} nowMs={nowMs} />
          </strong>
          {forecast.span.lastMs > forecast.span.firstMs ? (
            <>
              {' '}
              to{' '}
              <strong>
                <Moment at={forecast.span.lastMs} zone={zone} nowMs={nowMs} />
              </strong>
            </>
          ) : null}
          .
        </span>
      ) : null}
      {forecast.warnings.map((warning) => (
        <span key={warning.detail} className="block text-sm text-warning">
          {warning.detail}
        </span>
      ))}
    </p>
  );
}

/** Those who would not be reached as the plan says, what becomes of them, and what can be done. */
export function WhoIsMissed({ forecast }: { forecast: Forecast }) {
  if (forecast.missed.length === 0) return null;
  return (
    <details className="mt-1">
      <summary className="min-h-9 cursor-pointer link-quiet">
        Who would be missed, and what happens instead
      </summary>
      <ul className="max-h-48 overflow-y-auto pb-2">
        {forecast.missed.map((each) => (
          <li key={each.kind} className="border-t border-base-300 py-1">
            {each.detail} {each.remedy} <span className="text-quiet">{each.names.join(', ')}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}
