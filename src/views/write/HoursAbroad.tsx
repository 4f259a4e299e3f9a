import { resolveMoment } from '../../core/timing/wallTime.ts';
import { nearWords, timeWords } from '../../core/timing/words.ts';
import type { Choices } from './draft.ts';

/** What a moment is on the clocks of the stations, those with the same clock together; nights are marked. */
export function HoursAbroad({
  at,
  choices,
  nowMs,
}: {
  at: { wall: string; zone: string };
  choices: Choices;
  nowMs: number;
}) {
  if (at.wall === '') return null;
  const { epochMs } = resolveMoment(at);
  if (!Number.isFinite(epochMs)) return null;
  const clocks = new Map<string, { names: string[]; night: boolean }>();
  for (const { name, zone } of choices.stationZones) {
    const words = nearWords(epochMs, zone, nowMs);
    const hour = Number(timeWords(epochMs, zone).slice(0, 2));
    const known = clocks.get(words) ?? { names: [], night: hour < 7 || hour >= 21 };
    clocks.set(words, { ...known, names: [...known.names, name] });
  }
  if (clocks.size < 2) return null;
  return (
    <p className="w-full text-sm text-quiet">
      {[...clocks].map(([words, { names, night }], i) => (
        <span key={words}>
          {i === 0 ? '' : '; '}
          <span className={night ? 'text-warning' : undefined}>
            {words}
            {night ? ' (night)' : ''}
          </span>{' '}
          at {names.join(', ')}
        </span>
      ))}
      .
    </p>
  );
}
