import type { Outcome } from '../../../core/asks/poll/count/outcome.ts';
import type { PollKind } from '../../../core/asks/poll/pollKinds.ts';
import { people } from '../../../core/words.ts';

interface Option {
  id: number;
  words: string;
}

const percent = (n: number, of: number): string => (of === 0 ? '0 %' : `${Math.round((n / of) * 100)} %`);

function Bar({ n, of, second = 0 }: { n: number; of: number; second?: number }) {
  const width = (part: number): string => `${of === 0 ? 0 : ((part / of) * 100).toFixed(1)}%`;
  return (
    <svg width="100%" height={10} aria-hidden="true" className="fill-line block">
      <rect width="100%" height={10} className="fill-base-300" />
      <rect width={width(n + second)} height={10} className="fill-info" opacity={0.45} />
      <rect width={width(n)} height={10} className="fill-success" />
    </svg>
  );
}

/** How often each was chosen, as a table that is also a chart. */
function Counts({ outcome, options, title }: { outcome: Outcome; options: Option[]; title: string }) {
  const words = new Map(options.map((option) => [option.id, option.words]));
  return (
    <table className="w-full border-collapse">
      <caption className="sr-only">{title}</caption>
      <thead className="sr-only">
        <tr>
          <th scope="col">Option</th>
          <th scope="col">Share</th>
          <th scope="col">Votes</th>
        </tr>
      </thead>
      <tbody>
        {outcome.counts.map(({ id, n }) => (
          <tr key={id} className="border-t border-base-300">
            <th scope="row" className="w-2/5 py-2 pr-3 text-left font-normal" dir="auto">
              <span className={outcome.leading.includes(id) ? 'font-semibold' : ''}>
                {words.get(id) ?? String(id)}
              </span>
              {outcome.leading.includes(id) ? <span className="text-sm text-success"> ahead</span> : null}
            </th>
            <td className="py-2">
              <Bar n={n} of={outcome.voted} />
            </td>
            <td className="figure w-28 py-2 pl-3 text-right whitespace-nowrap">
              {n.toLocaleString('en-GB')} · {percent(n, outcome.voted)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Dates({ outcome, options }: { outcome: Outcome; options: Option[] }) {
  const dates = outcome.dates ?? [];
  return (
    <table className="w-full border-collapse">
      <caption className="sr-only">Who can on which date</caption>
      <thead>
        <tr className="text-left text-sm text-quiet">
          <th scope="col" className="font-normal">
            Your time
          </th>
          <th scope="col" className="w-1/4 font-normal">
            <span className="sr-only">Share</span>
          </th>
          <th scope="col" className="text-right font-normal">
            yes
          </th>
          <th scope="col" className="text-right font-normal whitespace-nowrap">
            if need be
          </th>
          <th scope="col" className="text-right font-normal">
            no
          </th>
        </tr>
      </thead>
      <tbody>
        {options.map((option) => {
          const date = dates.find((each) => each.id === option.id);
          if (!date) return null;
          return (
            <tr key={option.id} className="border-t border-base-300">
              <th scope="row" className="py-2 pr-3 text-left font-normal">
                <span className={outcome.leading.includes(option.id) ? 'font-semibold' : ''}>
                  {option.words}
                </span>
                {outcome.leading.includes(option.id) ? (
                  <span className="text-sm text-success"> ahead</span>
                ) : null}
              </th>
              <td className="py-2">
                <Bar n={date.yes} second={date.maybe} of={outcome.voted} />
              </td>
              <td className="figure py-2 text-right">{date.yes}</td>
              <td className="figure py-2 text-right">{date.maybe}</td>
              <td className="figure py-2 text-right">{date.no}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** How an order was counted: each round, the points, or each pair. */
function Ranking({ outcome, options, told }: { outcome: Outcome; options: Option[]; told: boolean }) {
  const { ranking } = outcome;
  if (!ranking) return null;
  const words = (id: number): string => options.find((option) => option.id === id)?.words ?? String(id);
  const [winner] = outcome.leading;
  return (
    <div>
      {winner === undefined || told ? null : (
        <p className="mb-2">
          <strong dir="auto">{words(winner)}</strong> comes first.
        </p>
      )}
      <details>
        <summary className="flex min-h-11 cursor-pointer items-center text-primary">
          How it is counted
        </summary>
        <p className="mb-2">{ranking.methodWords}.</p>
        {ranking.rounds.length > 0 ? (
          <div className="overflow-x-auto">
            <table className="w-full border-collapse text-sm">
              <caption className="sr-only">First places, round by round</caption>
              <thead>
                <tr>
                  <th scope="col" className="py-1 text-left">
                    Option
                  </th>
                  {ranking.rounds.map((_, i) => (
                    <th key={i} scope="col" className="px-2 py-1 text-right whitespace-nowrap">
                      Round {i + 1}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {options.map((option) => (
                  <tr key={option.id} className="border-t border-base-300">
                    <th scope="row" className="py-1 text-left font-normal" dir="auto">
                      {option.words}
                    </th>
                    {ranking.rounds.map((round, i) => {
                      const first = round.firsts.find((each) => each.id === option.id);
                      return (
                        <td key={i} className="figure px-2 py-1 text-right">
                          {first ? first.n : '–'}
                          {round.out === option.id ? ' out' : ''}
                        </td>
                      );
                    })}
                  </tr>
                ))}
                <tr className="border-t border-base-300 text-quiet">
                  <th scope="row" className="py-1 text-left font-normal">
                    Count for none of those left
                  </th>
                  {ranking.rounds.map((round, i) => (
                    <td key={i} className="figure px-2 py-1 text-right">
                      {round.spent}
                    </td>
                  ))}
                </tr>
              </tbody>
            </table>
          </div>
        ) : null}
        {ranking.points.length > 0 ? (
          <ol>
            {ranking.points.map((each) => (
              <li key={each.id} className="flex justify-between border-t border-base-300 py-1">
                <span dir="auto">{words(each.id)}</span>
                <span className="figure">{each.points}</span>
              </li>
            ))}
          </ol>
        ) : null}
        {ranking.pairs.length > 0 && options.length <= 12 ? (
          <div className="overflow-x-auto">
            <table className="w-full border-collapse text-sm">
              <caption className="text-left text-quiet">
                How many place the one at the left above the one on top
              </caption>
              <thead>
                <tr>
                  <td />
                  {options.map((option) => (
                    <th key={option.id} scope="col" className="px-2 py-1 text-right font-normal" dir="auto">
                      {option.words}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {options.map((option) => (
                  <tr key={option.id} className="border-t border-base-300">
                    <th scope="row" className="py-1 text-left font-normal" dir="auto">
                      {option.words}
                    </th>
                    {options.map((over) => (
                      <td key={over.id} className="figure px-2 py-1 text-right">
                        {option.id === over.id
                          ? ''
                          : (ranking.pairs.find((pair) => pair.id === option.id && pair.over === over.id)
                              ?.n ?? 0)}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        ) : null}
        {ranking.order.length > 0 ? (
          <p className="mt-2">In order: {ranking.order.map(words).join(', ')}.</p>
        ) : null}
        <p className="mt-2 text-sm text-quiet">{ranking.ties}</p>
      </details>
    </div>
  );
}

/** What has come of a poll, as charts that read as tables. */
export function OutcomeView({
  outcome,
  options,
  kind,
  asked,
  told = false,
}: {
  outcome: Outcome;
  options: Option[];
  kind: PollKind;
  asked: number;
  /** Whether it stands above in words already. */
  told?: boolean;
}) {
  const inOrder = [...options].sort((a, b) => a.id - b.id);
  return (
    <div>
      {told ? null : (
        <p className="mb-2 text-sm text-quiet" aria-live="polite">
          {outcome.voted.toLocaleString('en-GB')} of {people(asked)} voted.
        </p>
      )}
      {outcome.decided && !told ? <p className="mb-2 font-semibold">{outcome.decided.words}</p> : null}
      {outcome.rating && !told ? (
        <p className="mb-2">
          On average <strong className="figure">{outcome.rating.mean.toFixed(1)}</strong>, median{' '}
          <strong className="figure">{outcome.rating.median}</strong>.
        </p>
      ) : null}
      {kind === 'dates' ? (
        <Dates outcome={outcome} options={inOrder} />
      ) : kind === 'ranking' ? (
        <Ranking outcome={outcome} options={inOrder} told={told} />
      ) : outcome.texts ? (
        <ul>
          {outcome.texts.map((text) => (
            <li key={text.vote} className="flex justify-between gap-3 border-t border-base-300 py-2">
              <span dir="auto">{text.vote}</span>
              {text.n > 1 ? <span className="figure">{text.n}</span> : null}
            </li>
          ))}
        </ul>
      ) : (
        <Counts
          outcome={outcome}
          options={kind === 'rating' ? outcome.counts.map(({ id }) => ({ id, words: String(id) })) : inOrder}
          title="How often each was chosen"
        />
      )}
      {outcome.tie === null ? null : <p className="mt-2 text-sm text-quiet">{outcome.tie}</p>}
    </div>
  );
}
