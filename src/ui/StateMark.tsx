import type { SendState } from '../core/delivery/states.ts';

const COLOUR: Record<SendState, string> = {
  draft: 'text-quiet',
  'for review': 'text-warning',
  cleared: 'text-success',
  scheduled: 'text-info',
  'going out': 'text-warning',
  sent: 'text-success',
  recalled: 'text-quiet',
  failed: 'text-error',
};

/** The mark of a state, each a shape of its own, 14 by 14. Beside a word or with a title of its own elsewhere. */
export function StateShape({ state }: { state: SendState }) {
  const line = { fill: 'none', stroke: 'currentColor', strokeWidth: 1.8, strokeLinejoin: 'round' as const };
  const triangle = 'M7 1.5 13 12.5 1 12.5Z';
  switch (state) {
    case 'draft':
      return <circle cx="7" cy="7" r="5" {...line} />;
    case 'for review':
      return (
        <>
          <circle cx="7" cy="7" r="5" {...line} />
          <path d="M7 2 A5 5 0 0 0 7 12 Z" fill="currentColor" />
        </>
      );
    case 'cleared':
      return (
        <>
          <circle cx="7" cy="7" r="5" {...line} />
          <circle cx="7" cy="7" r="2" fill="currentColor" />
        </>
      );
    case 'scheduled':
      return <path d={triangle} {...line} />;
    case 'going out':
      return (
        <>
          <path d={triangle} {...line} />
          <path d="M7 1.5 7 12.5 1 12.5Z" fill="currentColor" />
        </>
      );
    case 'sent':
      return <path d={triangle} {...line} fill="currentColor" />;
    case 'recalled':
      return (
        <>
          <path d={triangle} {...line} />
          <path d="M0.5 9 13.5 6" {...line} />
        </>
      );
    case 'failed':
      return <path d="M2 2 12 12 M12 2 2 12" {...line} strokeWidth={2.4} />;
  }
}

/** A state as a word with its mark. */
export function StateMark({ state }: { state: SendState }) {
  return (
    <span className={`inline-flex items-center gap-1.5 font-semibold whitespace-nowrap ${COLOUR[state]}`}>
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
        <StateShape state={state} />
      </svg>
      {state}
    </span>
  );
}

export const stateColour = (state: SendState): string => COLOUR[state];
