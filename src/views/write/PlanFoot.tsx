import type { ReactNode } from 'react';
import type { Plan } from '../../core/plan/plan.ts';
import type { PhraseKey } from '../../core/plan/sentence.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { people } from '../../core/words.ts';
import { Notice } from '../../ui/Notice.tsx';
import { Sentence } from '../../ui/Sentence.tsx';
import { StateMark } from '../../ui/StateMark.tsx';
import { PHRASE_LABELS, type Draft } from './draft.ts';
import { Facts, WhoIsMissed } from './Facts.tsx';
import { Problems } from './NextSteps.tsx';

/** In one line how many get it and how it is read aloud, for where the whole is out of sight. */
const shortly = (forecast: Forecast): string =>
  [
    forecast.people > 0
      ? people(forecast.people)
      : forecast.onBoards > 0
        ? `${people(forecast.onBoards)} on boards`
        : forecast.outside.length > 0
          ? 'Nobody here'
          : 'Nobody yet',
    forecast.phrases.map((phrase) => [phrase.lead, phrase.words].filter(Boolean).join(' ')).join(', '),
  ].join(' · ');

/**
 * The plan at the foot of the writing screen: its sentence, what it would do, and what can be done next. On a phone, where it
 * stands under the text, a line of it stays in sight and leads there.
 */
export function PlanFoot({
  panels,
  open,
  onOpen,
  forecast,
  plan,
  zone,
  nowMs,
  problems,
  error,
  review,
  clearing,
  children,
}: {
  panels: Record<PhraseKey, ReactNode>;
  open: PhraseKey | null;
  onOpen: (key: PhraseKey | null) => void;
  forecast: Forecast;
  plan: Plan;
  zone: string;
  nowMs: number;
  problems: { field: string; detail: string }[];
  error: string | undefined;
  review: { state: Draft['review']; by: string | null; asked: string | null };
  /** Why this person may not clear it, or null where they may. */
  clearing: string | null;
  /** The buttons for what comes next. */
  children: ReactNode;
}) {
  return (
    <>
      <a
        href="#plan"
        className="fixed inset-x-0 bottom-12 z-30 block truncate border-t-2 border-base-content bg-base-200 px-4 py-2 text-sm sm:hidden"
      >
        {shortly(forecast)}
      </a>
      <section
        id="plan"
        aria-label="The plan"
        className="-mx-4 mt-6 scroll-mt-4 border-t-2 border-base-content bg-base-200 px-4 pt-1 pb-1 max-sm:pb-12 sm:sticky sm:bottom-0 sm:z-20"
      >
        <div className="flex flex-wrap items-center justify-between gap-x-6 gap-y-1">
          <div className="min-w-0 flex-1 basis-96">
            <Sentence
              phrases={forecast.phrases}
              labels={PHRASE_LABELS}
              open={open}
              onOpen={onOpen}
              panel={(key) => panels[key]}
              over
            />
            <Facts forecast={forecast} plan={plan} zone={zone} nowMs={nowMs} />
          </div>
          <div className="flex flex-wrap items-center gap-2">
            <StateMark state={review.state === 'none' ? 'draft' : review.state} />
            {review.by !== null && review.state !== 'none' ? (
              <span className="text-sm text-quiet">
                by {review.by}
                {review.state === 'for review' && review.asked !== null ? `; ${review.asked} is asked` : ''}
              </span>
            ) : null}
            {children}
          </div>
        </div>
        <Problems problems={problems} />
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
        {review.state === 'for review' && clearing !== null ? (
          <p className="text-sm text-quiet">{clearing}</p>
        ) : null}
        <WhoIsMissed forecast={forecast} />
      </section>
    </>
  );
}
