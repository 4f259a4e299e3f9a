import type { Ribbon } from '../core/desk/desk.ts';
import { dateWords, timeWords } from '../core/timing/words.ts';
import { stateColour, StateShape } from './StateMark.tsx';
import { useNow } from './useNow.ts';
import { useServer } from './server.ts';

const ROW = 13;
const TOPICS = ['desk'];

/** Today from midnight to midnight in the reader's zone, the present as a line, each going-out as a mark. */
export default function DayRibbon({ ribbon: first }: { ribbon: Ribbon }) {
  const { data: ribbon = first } = useServer('/api/ribbon', { first, topics: TOPICS });
  const now = useNow(ribbon.nowMs, 5_000);

  const { today, zone, marks } = ribbon;
  const at = (ms: number): string =>
    `${(((ms - today.startMs) / (today.endMs - today.startMs)) * 100).toFixed(3)}%`;
  // Marks that would touch stand one below the other.
  const placed = marks.map((mark, i) => {
    const near = marks
      .slice(0, i)
      .filter((other) => mark.dueMs - other.dueMs < (today.endMs - today.startMs) * 0.014);
    return { ...mark, row: near.length % 2 };
  });
  const past = now >= today.startMs && now < today.endMs ? at(now) : '100%';

  return (
    <nav aria-label={`Today, ${dateWords(now, zone)}`} className="border-b border-base-300 bg-base-100">
      <svg width="100%" height="50" className="mx-auto block max-w-[1400px] overflow-visible px-3">
        <rect x="0" y="0" width={past} height="34" className="fill-base-200" />
        {today.hours.map((hour, i) => (
          <g key={hour.epochMs} className={i % 3 === 0 ? '' : 'max-sm:hidden'}>
            <line
              x1={at(hour.epochMs)}
              x2={at(hour.epochMs)}
              y1={i % 3 === 0 ? 22 : 28}
              y2="34"
              className="stroke-base-300"
            />
            {i % 3 === 0 ? (
              <text
                x={at(hour.epochMs)}
                y="46"
                fontSize="11"
                textAnchor={i === 0 ? 'start' : 'middle'}
                className="figure fill-quiet"
              >
                {hour.label}
              </text>
            ) : null}
          </g>
        ))}
        <text x="100%" y="46" fontSize="11" textAnchor="end" className="figure fill-quiet">
          24
        </text>
        <line x1="0" x2="100%" y1="34" y2="34" className="stroke-base-300" />
        {now >= today.startMs && now < today.endMs ? (
          <g aria-hidden="true">
            <line x1={past} x2={past} y1="0" y2="38" strokeWidth="2" className="stroke-error" />
          </g>
        ) : null}
        {placed.map((mark) => {
          const words = `${timeWords(mark.dueMs, zone)} ${mark.title}, ${mark.state}`;
          return (
            <a key={mark.occurrenceId} href={`/sends/${mark.occurrenceId}`} aria-label={words}>
              <title>{words}</title>
              {mark.endsMs > mark.dueMs ? (
                <rect
                  x={at(Math.max(mark.dueMs, today.startMs))}
                  y={7 + mark.row * ROW}
                  width={`${(100 * (Math.min(mark.endsMs, today.endMs) - Math.max(mark.dueMs, today.startMs))) / (today.endMs - today.startMs)}%`}
                  height="6"
                  className={stateColour(mark.state)}
                  fill="currentColor"
                  opacity="0.3"
                />
              ) : null}
              <svg
                x={at(Math.max(mark.dueMs, today.startMs))}
                y={3 + mark.row * ROW}
                width="1"
                height="1"
                overflow="visible"
              >
                <rect x="-11" y="-3" width="22" height="20" fill="transparent" />
                <g transform="translate(-7 0)" className={stateColour(mark.state)}>
                  <StateShape state={mark.state} />
                </g>
              </svg>
            </a>
          );
        })}
      </svg>
    </nav>
  );
}
