import { useMemo } from 'react';
import type { Strain } from '../../core/desk/desk.ts';
import type { LaneBy } from '../../core/desk/runSheetView.ts';
import type { RunSheetRow } from '../../core/sends/send.ts';
import type { Day } from '../../core/timing/day.ts';
import { Axis } from './Axis.tsx';
import { Lane } from './Lane.tsx';
import { Mark } from './Mark.tsx';
import { byLane, placed, rulesOf, spanOf } from './timelineParts.ts';
import { useDrag } from './useDrag.ts';

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
  const span = useMemo(() => spanOf(fromMs, toMs, nowMs), [fromMs, toMs, nowMs]);
  const single = days.length === 1;

  const lanes = useMemo(() => byLane(rows, by), [rows, by]);
  const rules = useMemo(() => rulesOf(days, fromMs, toMs), [days, fromMs, toMs]);
  const clashing = new Map<number, number>();
  for (const { a, b, people: n } of strain?.clashes ?? [])
    for (const id of [a, b]) clashing.set(id, Math.max(n, clashing.get(id) ?? 0));

  const drag = useDrag(fromMs, toMs, onMove);

  return (
    <div className="overflow-x-auto">
      {/* As wide as it must be for the words of a mark to end before the next may begin: see LABELLED. */}
      <div className="min-w-[57rem]">
        <div className="grid grid-cols-[9rem_minmax(0,1fr)]">
          <span />
          <Axis span={span} days={days} zone={zone} strain={strain} />
        </div>
        {lanes.length === 0 ? (
          <p className="border-y border-base-300 py-3 text-quiet">Nothing goes out in this period.</p>
        ) : null}
        {lanes.map(([lane, ofLane]) => (
          <Lane key={lane} name={lane} span={span} rules={rules} {...placed(ofLane, fromMs, toMs, single)}>
            {(mark) => (
              <Mark
                key={mark.row.occurrenceId}
                mark={mark}
                span={span}
                single={single}
                zone={zone}
                clash={clashing.get(mark.row.occurrenceId)}
                drag={drag}
                onMove={onMove}
              />
            )}
          </Lane>
        ))}
      </div>
    </div>
  );
}
