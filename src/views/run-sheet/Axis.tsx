import { MUCH_A_DAY, type Strain } from '../../core/desk/desk.ts';
import type { Day } from '../../core/timing/day.ts';
import { shortDate } from '../../core/timing/words.ts';
import type { Span } from './timelineParts.ts';

/** The words over the axis: the hours of a day, or the days of more, each with the most that comes to one person. */
export function Axis({
  span: { at, nowMs },
  days,
  zone,
  strain,
}: {
  span: Span;
  days: Day[];
  zone: string;
  strain: Strain | null;
}) {
  const single = days.length === 1;
  return (
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
  );
}
