import type { PollResults } from '../../core/asks/results.ts';
import { AddOption } from '../../ui/ask/poll/AddOption.tsx';
import { Ballots } from './Ballots.tsx';
import { OutcomeView } from '../../ui/ask/poll/OutcomeView.tsx';

/** What was voted, as a whole and by station. */
export function PollSection({
  id,
  poll,
  asked,
  zone,
  onChanged,
}: {
  id: number;
  poll: PollResults;
  asked: number;
  zone: string;
  onChanged: () => void;
}) {
  const { breakdown } = poll;
  const columns =
    poll.kind === 'rating'
      ? Array.from({ length: poll.scale }, (_, i) => ({ id: i + 1, words: String(i + 1) }))
      : poll.options;
  return (
    <section className="mb-8" aria-labelledby="voted">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 id="voted" dir="auto">
          {poll.question}
        </h2>
        <a className="btn btn-outline ml-auto print:hidden" href={`/api/asks/${id}/ballots.csv`} download>
          Votes as CSV
        </a>
      </div>
      {poll.words === null ? null : <p className="mb-3 font-semibold">{poll.words}</p>}
      {poll.outcome ? (
        <OutcomeView outcome={poll.outcome} options={poll.options} kind={poll.kind} asked={asked} told />
      ) : (
        <p className="text-quiet">{poll.hidden}</p>
      )}
      {poll.options.some((option) => option.addedBy !== null) ? (
        <p className="mt-2 text-sm text-quiet">
          Added since:{' '}
          {poll.options
            .filter((option) => option.addedBy !== null)
            .map((option) => `${option.words} (${option.addedBy ?? ''})`)
            .join(', ')}
          .
        </p>
      ) : null}
      {breakdown && breakdown.rows.length > 0 ? (
        <details className="mt-3" open>
          <summary className="flex min-h-11 cursor-pointer items-center text-primary">By station</summary>
          <div className="overflow-x-auto">
            <table className="w-full border-collapse text-sm">
              <caption className="sr-only">Votes by station</caption>
              <thead>
                <tr>
                  <th scope="col" className="py-1 text-left">
                    Station
                  </th>
                  <th scope="col" className="px-2 py-1 text-right">
                    voted
                  </th>
                  {columns.map((column) => (
                    <th key={column.id} scope="col" className="px-2 py-1 text-right font-normal" dir="auto">
                      {column.words}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {breakdown.rows.map((row) => (
                  <tr key={row.name} className="border-t border-base-300">
                    <th scope="row" className="py-1 text-left font-normal">
                      {row.name}
                    </th>
                    <td className="figure px-2 py-1 text-right whitespace-nowrap">
                      {row.answered}/{row.asked}
                    </td>
                    {columns.map((column) => (
                      <td key={column.id} className="figure px-2 py-1 text-right">
                        {row.counts.find((count) => count.id === column.id)?.n ?? 0}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {poll.anonymous ? (
            <p className="mt-1 text-sm text-quiet">
              Without names: stations from which few have voted are put together.
            </p>
          ) : null}
        </details>
      ) : null}
      {poll.named ? <Ballots id={id} /> : null}
      {poll.mayAdd ? (
        <details className="mt-3 print:hidden">
          <summary className="flex min-h-11 cursor-pointer items-center text-primary">Add an option</summary>
          <AddOption id={id} dates={poll.kind === 'dates'} zone={zone} onAdded={onChanged} />
          <p className="mt-1 text-sm text-quiet">
            An option that stands cannot be changed any more: people have voted on its words.
          </p>
        </details>
      ) : null}
    </section>
  );
}
