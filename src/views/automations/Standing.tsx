import type { AutomationState } from '../../core/automation/automation.ts';

/** Whether an automation is at work, as a word with a mark of its own shape. */
export function Standing({ state, published }: { state: AutomationState; published: boolean }) {
  const words =
    state === 'on' ? 'at work' : state === 'paused' ? 'paused itself' : published ? 'off' : 'not at work yet';
  const colour = state === 'on' ? 'text-success' : state === 'paused' ? 'text-warning' : 'text-quiet';
  const line = { fill: 'none', stroke: 'currentColor', strokeWidth: 1.8 };
  return (
    <span className={`inline-flex items-center gap-1.5 font-semibold whitespace-nowrap ${colour}`}>
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
        {state === 'on' ? (
          <path d="M1 9 Q4 1 7 7 T13 5" {...line} strokeWidth={2.4} />
        ) : state === 'paused' ? (
          <path d="M4 2 V12 M10 2 V12" {...line} strokeWidth={2.4} />
        ) : (
          <path d="M1 7 H13" {...line} />
        )}
      </svg>
      {words}
    </span>
  );
}
