import { useRef, useState } from 'react';
import type { Content } from '../../core/content/announcement.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { ApiProblem, exactWordsOf, newKey, request, wordsOf } from '../../ui/api.ts';
import { useLive } from '../../ui/useLive.ts';
import type { Correction } from './CorrectionDialog.tsx';
import { keepsFromGoing, type Draft } from './draft.ts';
import type { ReviewStep } from './ReviewSteps.tsx';
import { useAutosave, useUnsavedText } from './useAutosave.ts';
import { useDraftDeeds } from './useDraftDeeds.ts';
import { useForecast } from './useForecast.ts';

/** What the buttons of the writing screen share: whether one of them is at work, and what is said of it. */
function useSaid() {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const [said, setSaid] = useState<string>();
  return { busy, setBusy, error, setError, said, setSaid };
}
type Said = ReturnType<typeof useSaid>;

/** The text and the plan as they are written, saved by themselves. */
function useText(draft: Draft) {
  const [content, setContent] = useState(draft.content);
  const [plan, setPlan] = useState(draft.plan);
  /** Another text in the editor than the one that is typed there has another key. */
  const [editorKey, setEditorKey] = useState(0);
  const { saving, changed, flush, saveOver, bringBack } = useAutosave(draft);
  const kept = useUnsavedText(draft.id, draft);
  const [savedMs, setSavedMs] = useState(draft.savedMs);
  if (saving.state === 'saved' && saving.savedMs !== savedMs) setSavedMs(saving.savedMs);
  return {
    content,
    plan,
    editorKey,
    saving,
    /** When what the server has was saved, in milliseconds since 1970. */
    savedMs,
    flush,
    saveOver,
    /** A text that could not be saved and is kept in this browser; null where there is none. */
    kept: editorKey === 0 && saving.state === 'saved' ? kept : null,
    bringBackKept: (): void => {
      if (!kept) return;
      setContent(kept.content);
      setPlan(kept.plan);
      setEditorKey(1);
      void bringBack(kept);
    },
    edit: (part: Partial<Content>): void => {
      const next = { ...content, ...part };
      setContent(next);
      changed({ content: next, plan });
    },
    replan: (next: Plan): void => {
      setPlan(next);
      changed({ content, plan: next });
    },
    anotherText: () => setEditorKey((key) => key + 1),
  };
}
type Text = ReturnType<typeof useText>;

/** Saves what is written, so that what is done next is done with it. */
async function saved({ flush }: Text): Promise<number> {
  const revision = await flush();
  if (revision === null) throw new Error('The last change is not saved yet. Try again in a moment.');
  return revision;
}

const TO = { 'hand on': 'for review', clear: 'cleared', return: 'none' } as const;

/** Whether a second person has cleared it, and the steps of that. */
function useReview(draft: Draft, me: { name: string }, text: Text, { setBusy, setError, setSaid }: Said) {
  const [review, setReview] = useState({
    state: draft.review,
    by: draft.reviewByName,
    asked: draft.reviewAskedName,
  });
  useLive([`draft:${draft.id}`], () => {
    request('GET', `/api/announcements/${draft.id}`).then(
      (found) => setReview({ state: found.review, by: found.reviewByName, asked: found.reviewAskedName }),
      () => undefined,
    );
  });
  const step = async (
    taken: ReviewStep,
    asked: { id: number; name: string } | null = null,
  ): Promise<void> => {
    setError(undefined);
    setBusy(true);
    try {
      const revision = await saved(text);
      const askId = asked?.id ?? null;
      await request('POST', `/api/announcements/${draft.id}/review`, { step: taken, revision, askId });
      setReview({ state: TO[taken], by: me.name, asked: asked?.name ?? null });
      setSaid(
        {
          'hand on': asked ? `${asked.name} is asked to look at it.` : 'It waits for a second person now.',
          clear: 'It is cleared.',
          return: 'It is back with its author.',
        }[taken],
      );
    } catch (error) {
      setError(wordsOf(error));
    }
    setBusy(false);
  };
  /** As the server has it: what was cleared and is changed waits to be cleared again. */
  const changed = (): void => {
    if (review.state === 'cleared') setReview({ state: 'for review', by: me.name, asked: null });
  };
  return { review, step, changed };
}

/** What is asked before it goes, and its going. */
function useSending(
  draft: Draft,
  text: Text,
  review: Draft['review'],
  forecastNow: () => Promise<Forecast>,
  { setBusy, setError }: Said,
) {
  const [problems, setProblems] = useState<{ field: string; detail: string }[]>([]);
  const [asking, setAsking] = useState<'send' | 'correct'>();
  const [openComments, setOpenComments] = useState(0);
  const key = useRef<string | null>(null);
  const ask = (step: 'send' | 'correct'): void => {
    key.current = newKey();
    setAsking(step);
  };
  /** Asks for the last time, where nothing keeps it from going. */
  const askLast = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const [current, comments] = await Promise.all([
        forecastNow(),
        request('GET', `/api/announcements/${draft.id}/comments`),
      ]);
      setOpenComments(comments.filter((comment) => comment.settledMs === null).length);
      const found = keepsFromGoing(text.content, current, review);
      setProblems(found);
      if (found.length === 0 && (await text.flush()) !== null) ask('send');
    } catch (error) {
      setError(wordsOf(error));
    }
    setBusy(false);
  };
  /** Sends what is written, or publishes it as a correction; pressed twice, it leads to what the first press made. */
  const goOut = async (step: 'send' | 'correct', correction?: Correction): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const revision = await saved(text);
      const { occurrenceId } = await request(
        'POST',
        `/api/announcements/${draft.id}/${step}`,
        { revision, ...correction },
        key.current ?? newKey(),
      );
      location.assign(`/sends/${occurrenceId}`);
    } catch (error) {
      if (error instanceof ApiProblem && typeof error.document.occurrenceId === 'number') {
        location.assign(`/sends/${error.document.occurrenceId}`);
        return;
      }
      setError(step === 'correct' ? exactWordsOf(error) : wordsOf(error));
      setBusy(false);
    }
  };
  const close = (): void => setAsking(undefined);
  return { problems, setProblems, asking, ask, close, openComments, askLast, goOut };
}

/** A draft as it is written: its text and plan, what it would do, who clears it, and how it goes. */
export function useWriting(draft: Draft, firstForecast: Forecast, me: { name: string }) {
  const said = useSaid();
  const text = useText(draft);
  const { forecast, error: forecastError, forecastNow } = useForecast(firstForecast, text.plan, text.content);
  const { review, step, changed } = useReview(draft, me, text, said);
  const sending = useSending(draft, text, review.state, forecastNow, said);
  const deeds = useDraftDeeds(draft.id, {
    flush: text.flush,
    onError: said.setError,
    onSaid: said.setSaid,
    onBusy: said.setBusy,
  });
  const touched = (): void => {
    sending.setProblems([]);
    said.setSaid(undefined);
    changed();
  };
  const edit = (part: Partial<Content>): void => {
    text.edit(part);
    touched();
  };
  const replan = (plan: Plan): void => {
    text.replan(plan);
    touched();
  };
  const { saving } = text;
  return {
    ...text,
    ...said,
    edit,
    replan,
    forecast,
    forecastError,
    review,
    stepReview: step,
    sending,
    deeds,
    /** What is wrong with one field of the text. */
    about: (field: string): string | undefined =>
      sending.problems.find((problem) => problem.field === field)?.detail ??
      (saving.state === 'refused' ? saving.problem.about(`content.${field}`) : undefined),
    bringBackEarlier: async (versionId: number): Promise<void> => {
      try {
        edit(await request('GET', `/api/announcements/${draft.id}/texts/${versionId}`));
        text.anotherText();
      } catch (error) {
        said.setError(wordsOf(error));
      }
    },
  };
}

export type Writing = ReturnType<typeof useWriting>;
