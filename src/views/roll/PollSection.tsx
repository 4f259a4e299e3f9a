import { useState } from 'react';
import type { PollResults } from '../../core/asks/results.ts';
import { ask, wordsOf } from '../../ui/api.ts';
import { OutcomeView } from '../../ui/ask/OutcomeView.tsx';
import { Notice } from '../../ui/Notice.tsx';

/** An option the author adds to a poll that has gone out. What was voted on before stays as it is. */
function AddOption({
  id,
  dates,
  zone,
  onAdded,
}: {
  id: number;
  dates: boolean;
  zone: string;
  onAdded: () => void;
}) {
  const [label, setLabel] = useState('');
  const [wall, setWall] = useState('');
  const [error, setError] = useState<string>();
  const add = async (): Promise<void> => {
    setError(undefined);
    try {
      await ask('POST', `/api/asks/${id}/options`, {
        label,
        at: dates && wall !== '' ? { wall, zone } : null,
      });
      setLabel('');
      setWall('');
      onAdded();
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  return (
    <details className="mt-3 print:hidden">
      <summary className="flex min-h-11 cursor-pointer items-center text-primary">Add an option</summary>
      <form
        className="flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void add();
        }}
      >
        {dates ? (
          <label className="flex flex-col gap-1">
            Date and time, in your zone
            <input
              type="datetime-local"
              className="input"
              value={wall}
              onChange={(event) => setWall(event.target.value.slice(0, 16))}
            />
          </label>
        ) : (
          <label className="flex flex-col gap-1">
            What it says
            <input
              type="text"
              className="input w-72"
              maxLength={160}
              value={label}
              onChange={(event) => setLabel(event.target.value)}
            />
          </label>
        )}
        <button type="submit" className="btn btn-outline">
          Add it
        </button>
      </form>
      <p className="mt-1 text-sm text-quiet">
        An option that stands cannot be changed any more: people have voted on its words.
      </p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </details>
  );
}

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
      {poll.mayAdd ? (
        <AddOption id={id} dates={poll.kind === 'dates'} zone={zone} onAdded={onChanged} />
      ) : null}
    </section>
  );
}
