import type { Reaction } from '../core/boards/reaction.ts';

/** The drawing of a reaction, each its own shape. */
export function ReactionMark({ kind }: { kind: Reaction }) {
  return (
    <svg
      width="20"
      height="20"
      viewBox="0 0 20 20"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.6"
      strokeLinecap="round"
      strokeLinejoin="round"
      aria-hidden="true"
    >
      {DRAWINGS[kind]}
    </svg>
  );
}

const DRAWINGS: Record<Reaction, React.ReactNode> = {
  // A seedling with two leaves.
  glad: (
    <>
      <path d="M10 18V9" />
      <path d="M10 10C10 6 7 4 3 4c0 4 3 6 7 6Z" fill="currentColor" fillOpacity="0.25" />
      <path d="M10 12c0-3 2.5-5 7-5 0 3.5-2.5 5-7 5Z" />
    </>
  ),
  // A bell, and the ring of it.
  heard: (
    <>
      <path
        d="M4.5 14h8c-1-1-1.3-2-1.3-4.5A2.9 2.9 0 0 0 8.500 6.500a2.900 2.900 0 0 0-2.700 3C5.800 12 5.500 13 4.500 14Z"
        fill="currentColor"
        fillOpacity="0.25"
      />
      <path d="M7.500 16.500h2" />
      <path d="M13.500 6c1 .8 1.500 2 1.500 3.500M15.500 3.500c1.700 1.300 2.500 3.500 2.500 6" />
    </>
  ),
  // A hand held out under something to be carried.
  help: (
    <>
      <path d="M2.500 15.500c3-2.500 4.500-2.500 7-1h3.500c1.200 0 1.200 1.800 0 1.800h-3" />
      <path d="M13 15.500l4-3.500" />
      <rect x="7.500" y="4" width="6" height="6" fill="currentColor" fillOpacity="0.25" />
    </>
  ),
  // A lens over a line that is not yet read.
  wonder: (
    <>
      <circle cx="8.500" cy="8.500" r="5" fill="currentColor" fillOpacity="0.15" />
      <path d="M12.300 12.300 17 17" />
      <path d="M6.500 8.500c1-1.500 2-1.500 2 0s1 1.500 2 0" />
    </>
  ),
  // A stone on a bent reed.
  weight: (
    <>
      <path d="M2.500 12c5 5 10 5 15 0" />
      <path d="M6.500 11.500 8 6.500h4.500l1.500 5-3 2.300H9Z" fill="currentColor" fillOpacity="0.25" />
    </>
  ),
};
