import type { Emblem, Ribbon, RibbonColour } from '../core/thanks/ribbon.ts';

const COLOURS: Record<RibbonColour, string> = {
  verdigris: 'text-accent',
  bronze: 'text-primary',
  ochre: 'text-warning',
  madder: 'text-error',
  slate: 'text-info',
};

/** A ribbon: a folded band with two tails, and its emblem on a disc where it is tied. */
export function RibbonBadge({
  ribbon,
  size = 56,
}: {
  ribbon: Pick<Ribbon, 'emblem' | 'colour' | 'name'>;
  size?: number;
}) {
  return (
    <svg
      width={size}
      height={size * 1.25}
      viewBox="0 0 64 80"
      role="img"
      aria-label={`Ribbon: ${ribbon.name}`}
      className={`shrink-0 ${COLOURS[ribbon.colour]}`}
    >
      <path d="M22 40 12 78l9-6 6 7 7-34Z" fill="currentColor" opacity="0.75" />
      <path d="M42 40l10 38-9-6-6 7-7-34Z" fill="currentColor" opacity="0.55" />
      <path
        d="M6 20c8-6 18-8 26-8s18 2 26 8l-5 12 5 12c-8-5-18-7-26-7s-18 2-26 7l5-12Z"
        fill="currentColor"
        opacity="0.3"
      />
      <circle cx="32" cy="30" r="21" fill="var(--color-base-100)" stroke="currentColor" strokeWidth="3" />
      <g fill="none" stroke="currentColor" strokeWidth="2.4" strokeLinecap="round" strokeLinejoin="round">
        {EMBLEM_DRAWINGS[ribbon.emblem]}
      </g>
    </svg>
  );
}

const EMBLEM_DRAWINGS: Record<Emblem, React.ReactNode> = {
  hands: (
    <path d="M19 31c1 7 6 11 13 11s12-4 13-11c-3-1-5 1-6 4-2 3-4 4-7 4s-5-1-7-4c-1-3-3-5-6-4ZM32 29c4-2 4-8 0-10-4 2-4 8 0 10Z" />
  ),
  road: <path d="M24 44 30 18M40 44 34 18M32 42v-4M32 33v-3M32 26v-2" />,
  lamp: <path d="M26 42h12M28 42V26a4 4 0 0 1 8 0v16M32 17v3M23 20l2 2M41 20l-2 2M30 34h4" />,
  question: <path d="M26 26c0-8 12-8 12 0 0 5-6 5-6 10M32 42v.5" />,
  door: <path d="M24 44V18h12v26M36 20l6 3v22l-6-1M32 31v1M20 44h6" />,
  shoot: <path d="M32 44V28M32 32c0-6-4-9-11-9 0 6 4 9 11 9ZM32 28c0-6 4-9 11-9 0 6-4 9-11 9Z" />,
  kettle: <path d="M23 42h18l-2-13H25ZM26 29c0-5 12-5 12 0M41 33l5-4M32 25v-2" />,
  key: <path d="M26 26a5 5 0 1 0 0 .1M30 29l12 12M38 37l3-3M35 34l2-2" />,
  rain: <path d="M23 30c-4-6 5-11 9-6 6-4 13 3 8 8H25M26 37l-2 5M33 37l-2 5M40 37l-2 5" />,
  map: <path d="M20 22l8-3 8 3 8-3v19l-8 3-8-3-8 3ZM28 19v19M36 22v19" />,
};
