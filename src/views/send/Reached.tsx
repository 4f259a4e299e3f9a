import { LATE_MS } from '../../core/delivery/lateness.ts';
import type { Method as DeliveryMethod } from '../../core/delivery/states.ts';
import type { DeliveryCount } from '../../core/sends/send.ts';
import { spanWords } from '../../core/timing/words.ts';

const METHOD_WORDS = { inbox: 'Inbox', mail: 'Mail', outside: 'Outside places' } as const;

function Method({ method, counts }: { method: DeliveryMethod; counts: DeliveryCount[] }) {
  const of = (...states: string[]): number =>
    counts
      .filter((row) => row.method === method && states.includes(row.state))
      .reduce((sum, row) => sum + row.n, 0);
  const mine = counts.filter((row) => row.method === method);
  if (mine.length === 0) return null;
  const worst = Math.max(0, ...mine.map((row) => row.worstLateMs ?? 0));
  const late = mine.reduce((sum, row) => sum + row.late, 0);
  return (
    <tr className="border-t border-base-300">
      <th scope="row" className="py-2 pr-4 text-left font-normal">
        {METHOD_WORDS[method]}
      </th>
      <td className="figure py-2 pr-4 text-right">{of('delivered').toLocaleString('en-GB')}</td>
      <td className="figure py-2 pr-4 text-right">
        {of('waiting', 'sending', 'resting').toLocaleString('en-GB')}
      </td>
      <td className={`figure py-2 pr-4 text-right ${of('failed') > 0 ? 'text-error' : ''}`}>
        {of('failed').toLocaleString('en-GB')}
      </td>
      <td className="py-2 text-right">
        {of('delivered') === 0
          ? ''
          : late === 0
            ? `all within ${spanWords(LATE_MS)}`
            : `${late.toLocaleString('en-GB')} later than ${spanWords(LATE_MS)}, worst ${spanWords(worst)}`}
      </td>
    </tr>
  );
}

/** How many each way has reached, and how many it has not. */
export function Reached({ counts }: { counts: DeliveryCount[] }) {
  return (
    <section className="my-6" aria-labelledby="reached">
      <h2 id="reached">Reached</h2>
      <div className="overflow-x-auto">
        <table className="mt-2 w-full max-w-3xl border-collapse border-b border-base-300">
          <thead>
            <tr className="text-sm text-quiet">
              <th scope="col" className="py-1 pr-4 text-left font-normal">
                By
              </th>
              <th scope="col" className="py-1 pr-4 text-right font-normal">
                delivered
              </th>
              <th scope="col" className="py-1 pr-4 text-right font-normal">
                waiting
              </th>
              <th scope="col" className="py-1 pr-4 text-right font-normal">
                failed
              </th>
              <th scope="col" className="py-1 text-right font-normal">
                on time
              </th>
            </tr>
          </thead>
          <tbody>
            <Method method="inbox" counts={counts} />
            <Method method="mail" counts={counts} />
            <Method method="outside" counts={counts} />
          </tbody>
        </table>
      </div>
    </section>
  );
}
