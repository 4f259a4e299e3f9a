import type { Draft } from './draft.ts';

export type ReviewStep = 'hand on' | 'clear' | 'return';

/** What can be done about a second person's clearance, as the draft stands. */
export function ReviewSteps({
  state,
  mayClear,
  busy,
  onStep,
}: {
  state: Draft['review'];
  mayClear: boolean;
  busy: boolean;
  onStep: (step: ReviewStep) => void;
}) {
  return (
    <>
      {state === 'none' ? (
        <button type="button" className="btn btn-outline" disabled={busy} onClick={() => onStep('hand on')}>
          Hand on for review
        </button>
      ) : null}
      {state === 'for review' && mayClear ? (
        <>
          <button type="button" className="btn btn-outline" disabled={busy} onClick={() => onStep('clear')}>
            Clear it
          </button>
          <button type="button" className="btn btn-ghost" disabled={busy} onClick={() => onStep('return')}>
            Return it
          </button>
        </>
      ) : null}
    </>
  );
}
