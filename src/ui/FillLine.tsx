import { filled, type Tally } from '../core/asks/roll.ts';

/** A roll as a line that fills, with its figures for those who cannot see it. */
export function FillLine({ tally, height = 8 }: { tally: Tally; height?: number }) {
  return (
    <svg
      width="100%"
      height={height}
      role="img"
      aria-label={`${tally.answered} of ${tally.asked}`}
      className="fill-line block"
    >
      <rect width="100%" height={height} className="fill-base-300" />
      <rect width={`${(filled(tally) * 100).toFixed(2)}%`} height={height} className="fill-success" />
    </svg>
  );
}
