import { wordsOfKind } from '../../core/asks/askWords.ts';
import { lazy, Suspense } from 'react';
import type { Results } from '../../core/asks/results.ts';
import type { GroupTally, Roll } from '../../core/asks/roll.ts';
import { nearWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { FillLine } from '../../ui/FillLine.tsx';
import { Moment } from '../../ui/Moment.tsx';
import { useAwake } from '../../ui/useAwake.ts';

const AnswerCurve = lazy(() => import('./AnswerCurve.tsx'));

/** What else is to be known of the whole: who opened it only, who came and went since. */
export function driftWords(roll: Roll): string {
  return [
    roll.opened > 0
      ? `${people(roll.opened)} opened it and ${roll.opened === 1 ? 'has' : 'have'} not answered.`
      : '',
    roll.earlier > 0
      ? `${people(roll.earlier)} had acknowledged the text before; their answers are kept.`
      : '',
    roll.goneSince > 0
      ? `${people(roll.goneSince)} answered and ${roll.goneSince === 1 ? 'is' : 'are'} not in the audience any more.`
      : '',
    roll.joinedSince > 0
      ? `${people(roll.joinedSince)} of the audience as it is now ${roll.joinedSince === 1 ? 'was' : 'were'} not asked: joined it since, or not at work then.`
      : '',
  ]
    .filter(Boolean)
    .join(' ');
}

/** How far each group has answered. */
export function Groups({ title, rows }: { title: string; rows: GroupTally[] }) {
  if (rows.length === 0) return null;
  return (
    <section className="mb-6">
      <table className="w-full border-collapse">
        <caption className="mb-1 text-left font-display text-lg font-semibold">{title}</caption>
        <thead className="sr-only">
          <tr>
            <th scope="col">Group</th>
            <th scope="col">Share</th>
            <th scope="col">Answered of asked</th>
            <th scope="col">Opened and not answered</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.name} className="border-t border-base-300">
              <th scope="row" className="w-2/5 py-1.5 pr-3 text-left font-normal">
                {row.name}
              </th>
              <td className="py-1.5">
                <FillLine tally={row} />
              </td>
              <td className="figure w-20 py-1.5 pl-3 text-right whitespace-nowrap">
                {row.answered}/{row.asked}
              </td>
              <td className="w-22 py-1.5 pl-3 text-right text-sm whitespace-nowrap text-quiet">
                {row.opened > 0 ? `${row.opened} opened` : ''}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** When it was asked, by when it is to be answered, and where more of it is. */
export function AskedWhen({ roll, zone, nowMs }: { roll: Roll; zone: string; nowMs: number }) {
  const id = roll.occurrenceId;
  const { saidAt } = wordsOfKind(roll.kind);
  return (
    <p className="mb-5 text-quiet">
      Asked <Moment at={roll.dueMs} zone={zone} nowMs={nowMs} />
      {roll.deadlineMs === null
        ? ', without a deadline.'
        : `, by ${nearWords(roll.deadlineMs, zone, nowMs)}${roll.closedMs === null && roll.deadlineMs < nowMs ? ', which has passed.' : '.'}`}{' '}
      {roll.closedWords === null ? '' : `${roll.closedWords} `}
      {roll.mayAct ? (
        <a className="link-quiet print:hidden" href={`/sends/${id}`}>
          How it went out
        </a>
      ) : null}
      {saidAt && roll.mayAct ? (
        <a className="link-quiet ml-3 print:hidden" href={saidAt(id)}>
          What was said
        </a>
      ) : null}
    </p>
  );
}

/** How the answers came over time, beside the one before. */
export function OverTime({
  results,
  forgotten,
  zone,
}: {
  results: Results;
  /** Whether it is kept no more when each answer came. */
  forgotten: boolean;
  zone: string;
}) {
  const awake = useAwake();
  return (
    <section aria-labelledby="over-time" className="mb-8">
      <h2 id="over-time" className="mb-2">
        Over time
      </h2>
      {results.before ? (
        <p className="mb-2">
          The one before,{' '}
          <a className="link-quiet" href={`/answers/${results.before.occurrenceId}`}>
            {results.before.title}
          </a>
          : {results.before.answeredByThen} of {results.before.asked} had answered after as long,{' '}
          {results.before.answered} in the end.
        </p>
      ) : null}
      {forgotten ? (
        <p className="text-quiet">When each answer came is not known any more.</p>
      ) : !awake ? (
        <p className="h-56 text-quiet">The curve is being drawn.</p>
      ) : results.curve.length > 1 ? (
        <Suspense fallback={<p className="h-56 text-quiet">The curve is being drawn.</p>}>
          <AnswerCurve results={results} zone={zone} />
        </Suspense>
      ) : (
        <p className="text-quiet">It has just gone out; the curve begins in a minute.</p>
      )}
    </section>
  );
}
