import { useState } from 'react';
import { bestHourWords, restsOn } from '../../core/told/hours.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useServer } from '../../ui/server.ts';

const HOURS = Array.from({ length: 24 }, (_, hour) => hour);
const two = (n: number): string => String(n).padStart(2, '0');

function Map({ onTake }: { onTake: ((hour: number) => void) | null }) {
  const { data: map, error } = useServer('/api/told/hours');
  if (error) return <Notice tone="error">{wordsOf(error)}</Notice>;
  if (!map) return <p className="text-sm text-quiet">Counting …</p>;
  if (map.lines.length === 0)
    return (
      <p className="text-sm text-quiet">
        Too little has gone out to say: an hour is told of once at least twenty people had something in it.
      </p>
    );
  const words = bestHourWords(map);
  const top = Math.max(0.01, ...map.lines.flatMap((line) => line.cells.map((cell) => cell.soon / cell.n)));
  return (
    <>
      <p className="text-sm">
        {words ?? 'No hour stands out: what came was opened about as soon at any of them.'}
      </p>
      {map.best && onTake ? (
        <button
          type="button"
          className="btn btn-outline btn-sm my-1"
          onClick={() => onTake(map.best?.hour ?? 9)}
        >
          Take {two(map.best.hour)}:00
        </button>
      ) : null}
      <div className="overflow-x-auto">
        <table className="text-center text-xs">
          <caption className="text-left text-quiet">
            In per cent, opened or answered within the hour, by the hour of their own day in which it came. It
            rests on {restsOn(map)}.
          </caption>
          <thead>
            <tr>
              <td />
              {HOURS.map((hour) => (
                <th key={hour} scope="col" className="figure px-0.5 font-normal">
                  {two(hour)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {map.lines.map((line) => (
              <tr key={line.name}>
                <th scope="row" className="pr-2 text-left font-normal whitespace-nowrap">
                  {line.name}
                </th>
                {HOURS.map((hour) => {
                  const cell = line.cells.find((each) => each.hour === hour);
                  if (!cell) return <td key={hour} className="border border-base-300" />;
                  const share = cell.soon / cell.n;
                  return (
                    <td
                      key={hour}
                      title={`${two(hour)}:00, ${line.name}: ${cell.soon} of ${cell.n} within the hour, at least ${cell.people} people`}
                      className="figure border border-base-300 px-0.5"
                      style={{
                        background: `color-mix(in oklab, var(--color-success) ${Math.round((60 * share) / top)}%, transparent)`,
                      }}
                    >
                      {Math.round(100 * share)}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

/** Which hour of their own day people open things soon, fetched when it is opened. */
export function HourHint({ onTake }: { onTake: ((hour: number) => void) | null }) {
  const [open, setOpen] = useState(false);
  return (
    <details className="border-t border-base-300" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="flex min-h-11 cursor-pointer items-center text-primary">
        The hour that works
      </summary>
      {open ? <Map onTake={onTake} /> : null}
    </details>
  );
}
