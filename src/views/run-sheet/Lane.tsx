import type { ReactNode } from 'react';
import { ROW_PX } from './Mark.tsx';
import { AXIS, type Placed, type Span } from './timelineParts.ts';

const LABEL_PX = 28;
const NAME_LINE_PX = 20;
/** So many letters of a lane's name go on a line. */
const NAME_LINE = 17;

/** A lane of the axis with its name. */
export function Lane({
  name,
  span,
  rules,
  marks,
  levels,
  children,
}: {
  name: string;
  span: Span;
  rules: { strong: string; faint: string };
  marks: Placed[];
  levels: number;
  children: (mark: Placed) => ReactNode;
}) {
  // As high as its marks, and as its name, which is told whole.
  const lines = Math.ceil(name.length / NAME_LINE);
  const height = Math.max(LABEL_PX, levels * ROW_PX + 10, lines * NAME_LINE_PX + 12);
  return (
    <div className="grid grid-cols-[9rem_minmax(0,1fr)] border-t border-base-300">
      <div className="border-r border-base-300 py-1.5 pr-3 text-right text-sm">
        <p className="leading-5 break-words" dir="auto">
          {name}
        </p>
      </div>
      <svg data-lane width="100%" height={height} className="block overflow-visible">
        {span.nowMs > span.fromMs ? (
          <rect
            x="0"
            y="0"
            width={span.at(span.clip(span.nowMs))}
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
        {span.nowMs > span.fromMs && span.nowMs < span.toMs ? (
          <line
            x1={span.at(span.nowMs)}
            x2={span.at(span.nowMs)}
            y1="0"
            y2={height}
            strokeWidth="2"
            className="stroke-error"
          />
        ) : null}
        {marks.map(children)}
      </svg>
    </div>
  );
}
