import type { Plan } from '../../core/plan/plan.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import type { Draft } from './draft.ts';
import { sendWords } from './LastQuestion.tsx';
import { ReviewSteps, type ReviewStep } from './ReviewSteps.tsx';

/** What keeps a draft from going out. */
export function Problems({ problems }: { problems: { field: string; detail: string }[] }) {
  if (problems.length === 0) return null;
  return (
    <div role="alert" className="mt-2 border-l-4 border-error bg-base-100 px-4 py-2 text-error">
      <p>It cannot go out yet:</p>
      <ul className="list-disc pl-5">
        {problems.map((problem) => (
          <li key={problem.field + problem.detail}>{problem.detail}</li>
        ))}
      </ul>
    </div>
  );
}

/** What can be done with a draft next: have it reviewed, rehearse it, send it. */
export function NextSteps({
  draftId,
  purpose,
  review,
  mayClear,
  forecast,
  plan,
  busy,
  onReview,
  onRehearse,
  onSend,
  onCorrect,
}: {
  draftId: number;
  purpose: Draft['purpose'];
  review: Draft['review'];
  mayClear: boolean;
  forecast: Forecast;
  plan: Plan;
  busy: boolean;
  onReview: (step: ReviewStep, asked?: { id: number; name: string } | null) => void;
  onRehearse: () => void;
  onSend: () => void;
  onCorrect: () => void;
}) {
  const words = {
    correct: 'Publish the correction',
    change: 'Change it from the next one on',
    send:
      forecast.people > 0 || forecast.boards.length > 0 || forecast.outside.length > 0
        ? sendWords(forecast, plan)
        : 'Send',
  };
  return (
    <>
      <ReviewSteps draftId={draftId} state={review} mayClear={mayClear} busy={busy} onStep={onReview} />
      <button type="button" className="btn btn-outline" disabled={busy} onClick={onRehearse}>
        Rehearse
      </button>
      <button
        type="button"
        className="btn btn-primary"
        disabled={busy}
        onClick={purpose === 'correct' ? onCorrect : onSend}
      >
        {words[purpose]} …
      </button>
    </>
  );
}
