import { useMemo, useRef, useState, type PointerEvent } from 'react';
import type { Strain } from '../../core/desk/desk.ts';
import { MUCH_A_DAY } from '../../core/desk/desk.ts';
import { LATE_MS } from '../../core/delivery/lateness.ts';
import { rowAddress, type RunSheetRow } from '../../core/sends/send.ts';
import { dayAround, type Day } from '../../core/timing/day.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import type { LaneBy } from '../../core/desk/runSheetView.ts';
import { stateColour, StateShape } from '../../ui/StateMark.tsx';

const ROW_PX = 24;
const LABEL_PX = 28;
const NAME_LINE_PX = 20;
/** So many letters of a lane's name go on a line. */
const NAME_LINE = 17;
const SNAP_MS = 15 * 60_000;
/** How wide the axis is in units of its own, for what is drawn over all of it at once. */
const AXIS = 1000;
/** Marks nearer than this share of the axis stand one below the other. */
const NEAR = 0.022;
/** What a mark takes with its words, as a share of the axis. */
const LABELLED = 0.22;

export const lanesOf = (row: RunSheetRow, by: LaneBy): string[] => {
  if (by === 'author') return [row.author];
  if (by === 'board') return row.boards.length > 0 ? row.boards : ['On no board'];
  return [row.whom || 'Boards only'];
};

/** The days of a stretch, each with its hours. */
export function daysOf(fromMs: number, count: number, zone: string): Day[] {
  const days: Day[] = [];
  for (let day = dayAround(fromMs, zone); days.length < count; day = dayAround(day.endMs + 1, zone))
    days.push(day);
  return days;
}

interface Placed {
  row: RunSheetRow;
  level: number;
  /** Whether its words stand before it, since there is no room behind it. */
  before: boolean;
}

/** Puts marks that would touch on levels of their own. */
function placed(
  rows: RunSheetRow[],
  fromMs: number,
  toMs: number,
  labelled: boolean,
): { marks: Placed[]; levels: number } {
  const levels: { start: number; end: number }[][] = [];
  const room = labelled ? LABELLED : NEAR;
  const marks = [...rows]
    .sort((a, b) => a.dueMs - b.dueMs)
    .map((row) => {
      const start = (row.dueMs - fromMs) / (toMs - fromMs);
      const before = labelled && start + room > 1;
      const taken = {
        start: before ? start - room : start,
        end: Math.max((row.endsMs - fromMs) / (toMs - fromMs), before ? start + NEAR : start + room) + 0.004,
      };
      let level = levels.findIndex((list) =>
        list.every((other) => other.end <= taken.start || other.start >= taken.end),
      );
      if (level === -1) level = levels.push([]) - 1;
      levels[level]?.push(taken);
      return { row, level, before };
    });
  return { marks, levels: Math.max(1, levels.length) };
}

/**
 * What goes out on an axis of time, a lane for each audience, board or author. What is planned can be dragged to another
 * time, or moved by Shift and the arrow keys a quarter of an hour at a time.
 */
export function Timeline({
  rows,
  days,
  by,
  zone,
  nowMs,
  strain,
  onMove,
}: {
  rows: RunSheetRow[];
  days: Day[];
  by: LaneBy;
  zone: string;
  nowMs: number;
  strain: Strain | null;
  onMove: (row: RunSheetRow, toMs: number) => void;
}) {
  const fromMs = days[0]?.startMs ?? nowMs;
  const toMs = days.at(-1)?.endMs ?? nowMs;
  const at = (ms: number): string => `${((100 * (ms - fromMs)) / (toMs - fromMs)).toFixed(3)}%`;
  const clip = (ms: number): number => Math.min(toMs, Math.max(fromMs, ms));
  const single = days.length === 1;
  const [drag, setDrag] = useState<{ id: number; ms: number } | null>(null);
  const grip = useRef<{ row: RunSheetRow; x: number; width: number; moved: boolean } | null>(null);
  const justDragged = useRef(false);

  const lanes = useMemo(() => {
    const found = new Map<string, RunSheetRow[]>();
    for (const row of rows)
      for (const lane of lanesOf(row, by)) found.set(lane, [...(found.get(lane) ?? []), row]);
    return [...found].sort(([, a], [, b]) => b.length - a.length);
  }, [rows, by]);
  const rules = useMemo(() => {
    const ofDays = days.length === 1 ? (days[0]?.hours ?? []).map((hour) => hour.epochMs) : null;
    const instants = ofDays ?? days.map((day) => day.startMs);
    const down = (strong: boolean): string =>
      instants
        .filter((_, i) => strong === (!ofDays || i % 3 === 0))
        .map((ms) => `M${((AXIS * (ms - fromMs)) / (toMs - fromMs)).toFixed(2)} 0V1`)
        .join('');
    return { strong: down(true), faint: down(false) };
  }, [days, fromMs, toMs]);
  const clashing = new Map<number, number>();
  for (const { a, b, people: n } of strain?.clashes ?? [])
    for (const id of [a, b]) clashing.set(id, Math.max(n, clashing.get(id) ?? 0));

  const snapped = (ms: number): number => Math.round(ms / SNAP_MS) * SNAP_MS;
  const down = (event: PointerEvent, row: RunSheetRow): void => {
    if (!row.movable || event.button !== 0) return;
    const svg = event.currentTarget.closest('[data-lane]');
    const width = svg?.getBoundingClientRect().width ?? 1;
    grip.current = { row, x: event.clientX, width, moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent): void => {
    const held = grip.current;
    if (!held) return;
    const shift = ((event.clientX - held.x) / held.width) * (toMs - fromMs);
    if (Math.abs(event.clientX - held.x) > 4) held.moved = true;
    if (held.moved) setDrag({ id: held.row.occurrenceId, ms: snapped(held.row.dueMs + shift) });
  };
  const up = (): void => {
    const held = grip.current;
    grip.current = null;
    if (held?.moved && drag) {
      justDragged.current = true;
      onMove(held.row, drag.ms);
    }
    setDrag(null);
  };

  return (
    <div className="overflow-x-auto">
      {/* As wide as it must be for the words of a mark to end before the next may begin: see LABELLED. */}
      <div className="min-w-[57rem]">
        <div className="grid grid-cols-[9rem_minmax(0,1fr)]">
          <span />
          <svg width="100%" height={single ? 22 : 40} className="block overflow-visible" aria-hidden="true">
            {single
              ? days[0]?.hours.map((hour, i) =>
                  i % 3 === 0 ? (
                    <text
                      key={hour.epochMs}
                      x={at(hour.epochMs)}
                      y="15"
                      fontSize="12"
                      className="figure fill-quiet"
                    >
                      {hour.label}
                    </text>
                  ) : null,
                )
              : days.map((day, i) => (
                  <text
                    key={day.date}
                    x={at(day.startMs)}
                    y="15"
                    dx="4"
                    fontSize="12"
                    className={`figure ${day.startMs <= nowMs && nowMs < day.endMs ? 'fill-base-content font-semibold' : 'fill-quiet'}`}
                  >
                    {days.length > 7 && i % 2 === 1 ? '' : shortDate(day.startMs + 1, zone)}
                  </text>
                ))}
            {single
              ? null
              : strain?.days.map((load) => {
                  const day = days.find((each) => each.startMs === load.startMs);
                  return day ? (
                    <text
                      key={load.startMs}
                      x={at(day.startMs)}
                      y="33"
                      dx="4"
                      fontSize="11"
                      className={load.most > MUCH_A_DAY ? 'fill-warning font-semibold' : 'fill-quiet'}
                    >
                      {days.length > 7 ? `≤${load.most}` : `up to ${load.most} each`}
                    </text>
                  ) : null;
                })}
          </svg>
        </div>
        {lanes.length === 0 ? (
          <p className="border-y border-base-300 py-3 text-quiet">Nothing goes out in this stretch.</p>
        ) : null}
        {lanes.map(([lane, ofLane]) => {
          const { marks, levels } = placed(ofLane, fromMs, toMs, single);
          // As high as its marks, and as its name, which is told whole.
          const lines = Math.ceil(lane.length / NAME_LINE);
          const height = Math.max(LABEL_PX, levels * ROW_PX + 10, lines * NAME_LINE_PX + 12);
          return (
            <div key={lane} className="grid grid-cols-[9rem_minmax(0,1fr)] border-t border-base-300">
              <div className="border-r border-base-300 py-1.5 pr-3 text-right text-sm">
                <p className="leading-5 break-words" dir="auto">
                  {lane}
                </p>
              </div>
              <svg data-lane width="100%" height={height} className="block overflow-visible">
                {nowMs > fromMs ? (
                  <rect
                    x="0"
                    y="0"
                    width={at(clip(nowMs))}
                    height={height}
                    className="fill-base-300"
                    opacity="0.35"
                  />
                ) : null}
                <svg
                  width="100%"
                  height={height}
                  viewBox={`0 0 ${AXIS} 1`}
                  preserveAspectRatio="none"
                  fill="none"
                  className="stroke-base-300"
                >
                  <path d={rules.strong} vectorEffect="non-scaling-stroke" />
                  <path d={rules.faint} vectorEffect="non-scaling-stroke" opacity="0.4" />
                </svg>
                {nowMs > fromMs && nowMs < toMs ? (
                  <line
                    x1={at(nowMs)}
                    x2={at(nowMs)}
                    y1="0"
                    y2={height}
                    strokeWidth="2"
                    className="stroke-error"
                  />
                ) : null}
                {marks.map(({ row, level, before }) => {
                  const y = 6 + level * ROW_PX;
                  const dueMs = drag?.id === row.occurrenceId ? drag.ms : row.dueMs;
                  const lasts = row.endsMs - row.dueMs;
                  const clash = clashing.get(row.occurrenceId);
                  const late = row.worstLateMs !== null && row.worstLateMs > LATE_MS;
                  const words = [
                    `${timeWords(row.dueMs, zone)} ${row.title}, ${row.state}`,
                    lasts > 0 ? `until ${timeWords(row.endsMs, zone)}, by each reader’s clock` : '',
                    row.recurs ? 'recurring' : '',
                    row.automationId === null ? '' : 'by an automation, if anything is to be said then',
                    clash ? `${people(clash)} get something else within two hours` : '',
                    late ? 'some of it late' : '',
                    row.movable ? 'drag it, or hold Shift and press the arrow keys, to move it' : '',
                  ]
                    .filter(Boolean)
                    .join(', ');
                  return (
                    <a
                      key={row.occurrenceId}
                      href={rowAddress(row)}
                      aria-label={words}
                      className={row.movable ? 'cursor-grab touch-none' : ''}
                      onPointerDown={(event) => down(event, row)}
                      onPointerMove={move}
                      onPointerUp={up}
                      onPointerCancel={() => {
                        grip.current = null;
                        setDrag(null);
                      }}
                      onDragStart={(event) => event.preventDefault()}
                      onClick={(event) => {
                        if (justDragged.current) event.preventDefault();
                        justDragged.current = false;
                      }}
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
                        {late ? <circle cx="8" cy="0" r="3" className="fill-error" /> : null}
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
                        {drag?.id === row.occurrenceId ? (
                          <text
                            x="12"
                            y={single ? 26 : 12}
                            fontSize="13"
                            className="figure fill-base-content font-semibold"
                          >
                            {shortDate(dueMs, zone)} {timeWords(dueMs, zone)}
                          </text>
                        ) : null}
                      </svg>
                    </a>
                  );
                })}
              </svg>
            </div>
          );
        })}
      </div>
    </div>
  );
}
