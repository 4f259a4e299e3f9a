import { CartesianGrid, Legend, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { Results } from '../../core/asks/results.ts';
import { momentWords, shortDate, timeWords } from '../../core/timing/words.ts';

const DAY_MS = 86_400_000;

/** How many had answered over time, beside the asking before it; the same figures stand below as a table. */
export default function AnswerCurve({ results, zone }: { results: Results; zone: string }) {
  const { curve, before, beganMs, marks } = results;
  const days = (curve.at(-1)?.atMs ?? 0) - beganMs > DAY_MS;
  const when = (atMs: number): string => {
    const time = timeWords(atMs, zone);
    return days && time === '00:00' ? shortDate(atMs, zone) : time;
  };
  return (
    <>
      <div className="h-56 w-full" aria-hidden="true">
        <ResponsiveContainer width="100%" height="100%" initialDimension={{ width: 640, height: 224 }}>
          <LineChart
            data={[{ atMs: beganMs, answered: 0, before: before ? 0 : null }, ...curve]}
            margin={{ top: 8, right: 16, bottom: 4, left: 0 }}
            accessibilityLayer={false}
          >
            <CartesianGrid stroke="var(--color-base-300)" vertical={false} />
            <XAxis
              dataKey="atMs"
              type="number"
              domain={['dataMin', 'dataMax']}
              ticks={marks}
              tickFormatter={when}
              stroke="var(--quiet)"
              fontSize={12}
            />
            <YAxis allowDecimals={false} stroke="var(--quiet)" fontSize={12} width={44} />
            <Tooltip
              labelFormatter={(atMs) => momentWords(Number(atMs), zone)}
              contentStyle={{
                background: 'var(--color-base-100)',
                border: '1px solid var(--color-base-300)',
              }}
            />
            <Legend />
            <Line
              type="stepAfter"
              dataKey="answered"
              name="answered"
              stroke="var(--color-success)"
              strokeWidth={2}
              dot={false}
              isAnimationActive={false}
            />
            {before ? (
              <Line
                type="stepAfter"
                dataKey="before"
                name={`the one before, ${shortDate(before.dueMs, zone)}`}
                stroke="var(--color-info)"
                strokeDasharray="7 4"
                strokeWidth={2}
                dot={false}
                isAnimationActive={false}
              />
            ) : null}
          </LineChart>
        </ResponsiveContainer>
      </div>
      <details>
        <summary className="flex min-h-11 cursor-pointer items-center text-primary print:hidden">
          The same as a table
        </summary>
        <table className="text-sm">
          <caption className="sr-only">How many had answered, over time</caption>
          <thead>
            <tr>
              <th scope="col" className="pr-6 text-left font-normal">
                until
              </th>
              <th scope="col" className="px-2 text-right font-normal">
                answered
              </th>
              {before ? (
                <th scope="col" className="px-2 text-right font-normal">
                  the one before
                </th>
              ) : null}
            </tr>
          </thead>
          <tbody>
            {curve.map((point) => (
              <tr key={point.atMs}>
                <th scope="row" className="pr-6 text-left font-normal">
                  {momentWords(point.atMs, zone)}
                </th>
                <td className="figure px-2 text-right">{point.answered}</td>
                {before ? <td className="figure px-2 text-right">{point.before}</td> : null}
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </>
  );
}
