import { LATE_MS } from '../../core/delivery/lateness.ts';
import { rowAddress, type RunSheetRow } from '../../core/sends/send.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { stateColour, StateShape } from '../../ui/StateMark.tsx';
import type { Placed, Span } from './timelineParts.ts';
import { snapped, SNAP_MS, type Drag } from './useDrag.ts';

export const ROW_PX = 24;

const isLate = (row: RunSheetRow): boolean => row.worstLateMs !== null && row.worstLateMs > LATE_MS;

/** What a mark says to whoever hears it instead of seeing it. */
function wordsOf(row: RunSheetRow, clash: number | undefined, zone: string): string {
  const lasts = row.endsMs - row.dueMs;
  return [
    `${timeWords(row.dueMs, zone)} ${row.title}, ${row.state}`,
    lasts > 0 ? `until ${timeWords(row.endsMs, zone)}, by each reader’s clock` : '',
    row.recurs ? 'recurring' : '',
    row.automationId === null ? '' : 'by an automation, if anything is to be said then',
    clash ? `${people(clash)} get something else within two hours` : '',
    isLate(row) ? 'some of it late' : '',
    row.movable ? 'drag it, or hold Shift and press the arrow keys, to move it' : '',
  ]
    .filter(Boolean)
    .join(', ');
}

/** A send on the axis of time; what is planned can be dragged, or moved by Shift and the arrow keys. */
export function Mark({
  mark: { row, level, before },
  span: { fromMs, toMs, at, clip },
  single,
  zone,
  clash,
  drag,
  onMove,
}: {
  mark: Placed;
  span: Span;
  /** Whether the axis is one day long. */
  single: boolean;
  zone: string;
  /** How many of its readers get something else about then. */
  clash: number | undefined;
  drag: Drag;
  onMove: (row: RunSheetRow, toMs: number) => void;
}) {
  const y = 6 + level * ROW_PX;
  const dueMs = drag.held?.id === row.occurrenceId ? drag.held.ms : row.dueMs;
  const lasts = row.endsMs - row.dueMs;
  const words = wordsOf(row, clash, zone);
  return (
    <a
      href={rowAddress(row)}
      aria-label={words}
      className={row.movable ? 'cursor-grab touch-none' : ''}
      onPointerDown={(event) => drag.down(event, row)}
      onPointerMove={drag.move}
      onPointerUp={drag.up}
      onPointerCancel={drag.cancel}
      onDragStart={(event) => event.preventDefault()}
      onClick={drag.click}
      onKeyDown={(event) => {
        if (!row.movable || !event.shiftKey) return;
        const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
        if (step === undefined) return;
        event.preventDefault();
        onMove(row, snapped(row.dueMs + step * SNAP_MS));
      }}
    >
      <title>{words}</title>
      {lasts > 0 ? (
        <rect
          x={at(clip(dueMs))}
          y={y + 4}
          width={`${Math.max(0, (100 * (clip(dueMs + lasts) - clip(dueMs))) / (toMs - fromMs)).toFixed(3)}%`}
          height="7"
          className={stateColour(row.state)}
          fill="currentColor"
          opacity="0.3"
        />
      ) : null}
      <svg x={at(clip(dueMs))} y={y} width="1" height="1" overflow="visible">
        <rect x="-11" y="-3" width="22" height="21" fill="transparent" />
        <g transform="translate(-7 0)" className={stateColour(row.state)}>
          <StateShape state={row.state} />
        </g>
        {clash ? <path d="M-9 17 H9" strokeWidth="3" className="stroke-warning" /> : null}
        {isLate(row) ? <circle cx="8" cy="0" r="3" className="fill-error" /> : null}
        {single ? (
          <text
            x={before ? -12 : 12}
            y="12"
            fontSize="13"
            textAnchor={before ? 'end' : 'start'}
            className="fill-base-content"
          >
            {row.title.length > 30 ? `${row.title.slice(0, 29)}…` : row.title}
          </text>
        ) : null}
        {drag.held?.id === row.occurrenceId ? (
          <text x="12" y={single ? 26 : 12} fontSize="13" className="figure fill-base-content font-semibold">
            {shortDate(dueMs, zone)} {timeWords(dueMs, zone)}
          </text>
        ) : null}
      </svg>
    </a>
  );
}
