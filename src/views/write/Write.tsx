import { useRef, useState } from 'react';
import type { Content, EarlierText } from '../../core/content/announcement.ts';
import type { DraftComment } from '../../core/desk/comment.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { PhraseKey } from '../../core/plan/sentence.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { Awake } from '../../ui/Awake.tsx';
import { ApiProblem, request, exactWordsOf, newKey, wordsOf } from '../../ui/api.ts';
import { FilesOf } from '../../ui/filesOf.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useLive } from '../../ui/useLive.ts';
import { Comments, History, Versions } from './Beside.tsx';
import { ContentFields } from './ContentFields.tsx';
import { CorrectionDialog, type Correction } from './CorrectionDialog.tsx';
import { HEADINGS, keepsFromGoing, namesFrom, titleAsSent, type Choices, type Draft } from './draft.ts';
import { KeptNotice, PurposeNotice } from './DraftNotices.tsx';
import { ConflictQuestion, DiscardQuestion } from './DraftQuestions.tsx';
import { LastQuestion } from './LastQuestion.tsx';
import { NextSteps } from './NextSteps.tsx';
import { PlanFoot } from './PlanFoot.tsx';
import { AskPanel } from './AskPanel.tsx';
import { HowPanel, WhenPanel } from './Panels.tsx';
import { Preview } from './Preview.tsx';
import type { ReviewStep } from './ReviewSteps.tsx';
import { useAutosave, useUnsavedText } from './useAutosave.ts';
import { useDraftDeeds } from './useDraftDeeds.ts';
import { TextTools } from './TextTools.tsx';
import { useForecast } from './useForecast.ts';
import { WhomPanel } from './WhomPanel.tsx';
import { AlsoOpen, SharedWith } from './Sharing.tsx';
import { SavingWords } from './SavingWords.tsx';

/** The writing screen: the text, what the reader will see, and the sentence that says who gets it and when. */
export default function Write({
  draft,
  earlier,
  comments,
  forecast: firstForecast,
  choices,
  zone,
  nowMs,
  me,
}: {
  draft: Draft;
  earlier: EarlierText[];
  comments: DraftComment[];
  forecast: Forecast;
  choices: Choices;
  zone: string;
  nowMs: number;
  me: { id: number; name: string };
}) {
  const [content, setContent] = useState(draft.content);
  const [plan, setPlan] = useState(draft.plan);
  const [panel, setPanel] = useState<PhraseKey | null>(null);
  const [asking, setAsking] = useState(false);
  const [discarding, setDiscarding] = useState(false);
  const [problems, setProblems] = useState<{ field: string; detail: string }[]>([]);
  const [sendError, setSendError] = useState<string>();
  const { forecast, error: forecastError, forecastNow } = useForecast(firstForecast, plan, content);
  const [busy, setBusy] = useState(false);
  const [editorKey, setEditorKey] = useState(0);
  const [review, setReview] = useState({
    state: draft.review,
    by: draft.reviewByName,
    asked: draft.reviewAskedName,
  });
  const [said, setSaid] = useState<string>();
  const [correcting, setCorrecting] = useState(false);
  const [openComments, setOpenComments] = useState(0);
  const { saving, changed, flush, saveOver, bringBack: saveBack } = useAutosave(draft);
  const sendKey = useRef<string | null>(null);

  const kept = useUnsavedText(draft.id, draft);
  const bringBack = (text: NonNullable<typeof kept>): void => {
    setContent(text.content);
    setPlan(text.plan);
    setEditorKey(1);
    void saveBack(text);
  };

  const [seenMs, setSeenMs] = useState(draft.savedMs);
  if (saving.state === 'saved' && saving.savedMs !== seenMs) setSeenMs(saving.savedMs);

  const touched = (): void => {
    setProblems([]);
    setSaid(undefined);
    // As the server has it: what was cleared and is changed waits to be cleared again.
    if (review.state === 'cleared') setReview({ state: 'for review', by: me.name, asked: null });
  };
  const edit = (part: Partial<Content>): void => {
    const next = { ...content, ...part };
    setContent(next);
    touched();
    changed({ content: next, plan });
  };
  const replan = (next: Plan): void => {
    setPlan(next);
    touched();
    changed({ content, plan: next });
  };

  useLive([`draft:${draft.id}`], () => {
    request('GET', `/api/announcements/${draft.id}`).then(
      (found) => setReview({ state: found.review, by: found.reviewByName, asked: found.reviewAskedName }),
      () => undefined,
    );
  });
  const stepReview = async (
    step: ReviewStep,
    asked: { id: number; name: string } | null = null,
  ): Promise<void> => {
    setSendError(undefined);
    setBusy(true);
    try {
      const revision = await flush();
      if (revision === null) throw new Error('The last change is not saved yet. Try again in a moment.');
      await request('POST', `/api/announcements/${draft.id}/review`, {
        step,
        revision,
        askId: asked?.id ?? null,
      });
      const to = ({ 'hand on': 'for review', clear: 'cleared', return: 'none' } as const)[step];
      setReview({ state: to, by: me.name, asked: asked?.name ?? null });
      setSaid(
        {
          'hand on': asked ? `${asked.name} is asked to look at it.` : 'It waits for a second person now.',
          clear: 'It is cleared.',
          return: 'It is back with its author.',
        }[step],
      );
    } catch (error) {
      setSendError(wordsOf(error));
    }
    setBusy(false);
  };

  const bringBackEarlier = async (versionId: number): Promise<void> => {
    try {
      edit(await request('GET', `/api/announcements/${draft.id}/texts/${versionId}`));
      setEditorKey((key) => key + 1);
    } catch (error) {
      setSendError(wordsOf(error));
    }
  };

  const about = (field: string): string | undefined =>
    problems.find((problem) => problem.field === field)?.detail ??
    (saving.state === 'refused' ? saving.problem.about(`content.${field}`) : undefined);

  const askLast = async (): Promise<void> => {
    setBusy(true);
    setSendError(undefined);
    setPanel(null);
    try {
      const [current, said] = await Promise.all([
        forecastNow(),
        request('GET', `/api/announcements/${draft.id}/comments`),
      ]);
      setOpenComments(said.filter((comment) => comment.settledMs === null).length);
      const found = keepsFromGoing(content, current, review.state);
      setProblems(found);
      if (found.length === 0 && (await flush()) !== null) {
        sendKey.current = newKey();
        setAsking(true);
      }
    } catch (error) {
      setSendError(wordsOf(error));
    }
    setBusy(false);
  };
  /** Sends what is written, or publishes it as a correction; pressed twice, it leads to what the first press made. */
  const goOut = async (step: 'send' | 'correct', correction?: Correction): Promise<void> => {
    setBusy(true);
    setSendError(undefined);
    try {
      const revision = await flush();
      if (revision === null) throw new Error('The last change is not saved yet. Try again in a moment.');
      const { occurrenceId } = await request(
        'POST',
        `/api/announcements/${draft.id}/${step}`,
        { revision, ...correction },
        sendKey.current ?? newKey(),
      );
      location.assign(`/sends/${occurrenceId}`);
    } catch (error) {
      if (error instanceof ApiProblem && typeof error.document.occurrenceId === 'number') {
        location.assign(`/sends/${error.document.occurrenceId}`);
        return;
      }
      setSendError(step === 'correct' ? exactWordsOf(error) : wordsOf(error));
      setBusy(false);
    }
  };
  const deeds = useDraftDeeds(draft.id, {
    flush,
    onError: setSendError,
    onSaid: setSaid,
    onBusy: setBusy,
  });
  const discard = async (): Promise<void> => {
    if (!(await deeds.discard())) setDiscarding(false);
  };

  const shared = { plan, choices, zone, nowMs, onChange: replan };
  const template = draft.state === 'template';
  return (
    <FilesOf value={`?draft=${draft.id}`}>
      <Awake>
        <div className="mb-3 flex flex-wrap items-baseline justify-between gap-x-6">
          <h1 className="text-2xl">{template ? 'A template' : HEADINGS[draft.purpose]}</h1>
          <AlsoOpen draftId={draft.id} />
          <SavingWords saving={saving} zone={zone} />
        </div>
        <PurposeNotice purpose={draft.purpose} onLeave={() => void deeds.leave()} />
        {kept && editorKey === 0 && saving.state === 'saved' ? (
          <KeptNotice onBringBack={() => bringBack(kept)} />
        ) : null}
        <div className="grid gap-8 lg:grid-cols-[minmax(0,1fr)_minmax(0,26rem)]">
          <section aria-label="The text" className="flex flex-col gap-4">
            <ContentFields
              content={content}
              choices={choices}
              editorKey={editorKey}
              zone={zone}
              nowMs={nowMs}
              about={about}
              onEdit={edit}
            />
            <TextTools
              isTemplate={template}
              content={content}
              onTest={() => void deeds.sendTest()}
              onCopy={() => void deeds.begin('copy', (id) => location.assign(`/write/${id}`))}
              onTemplate={() => void deeds.begin('template', () => setSaid('It is kept as a template.'))}
              onDiscard={draft.purpose === 'send' ? () => setDiscarding(true) : null}
            />
            {said === undefined ? null : <Notice tone="success">{said}</Notice>}
          </section>
          <section aria-label="What the reader sees" className="lg:border-l lg:border-base-300 lg:pl-8">
            <Preview
              draftId={draft.id}
              savedRevision={seenMs}
              content={content}
              plan={plan}
              choices={choices}
              nowMs={nowMs}
              me={me}
            />
            <div className="mt-6 border-t border-base-300">
              {template ? null : <SharedWith draftId={draft.id} flush={flush} />}
              <Comments draftId={draft.id} first={comments} zone={zone} nowMs={nowMs} />
              <Versions
                draftId={draft.id}
                versions={earlier}
                zone={zone}
                nowMs={nowMs}
                onBringBack={(versionId) => void bringBackEarlier(versionId)}
              />
              <History draftId={draft.id} zone={zone} nowMs={nowMs} />
            </div>
          </section>
        </div>
        <PlanFoot
          panels={{
            whom: <WhomPanel {...shared} audienceNames={namesFrom(choices)} forecast={forecast} />,
            how: <HowPanel {...shared} />,
            when: <WhenPanel {...shared} forecast={forecast} hasEvent={content.event !== null} />,
            ask: <AskPanel {...shared} />,
          }}
          open={panel}
          onOpen={setPanel}
          forecast={forecast}
          plan={plan}
          zone={zone}
          nowMs={nowMs}
          problems={problems}
          error={
            asking || correcting
              ? undefined
              : (sendError ?? (forecastError ? wordsOf(forecastError) : undefined))
          }
          review={review}
          clearing={draft.clearing}
        >
          {template ? null : (
            <NextSteps
              draftId={draft.id}
              purpose={draft.purpose}
              review={review.state}
              mayClear={draft.clearing === null}
              forecast={forecast}
              plan={plan}
              busy={busy}
              onReview={(step, asked) => void stepReview(step, asked)}
              onRehearse={() => void deeds.rehearse()}
              onSend={() => void askLast()}
              onCorrect={() => {
                sendKey.current = newKey();
                setCorrecting(true);
              }}
            />
          )}
        </PlanFoot>
        <LastQuestion
          open={asking}
          forecast={forecast}
          plan={plan}
          content={content}
          title={titleAsSent(content, choices)}
          openComments={openComments}
          zone={zone}
          nowMs={nowMs}
          busy={busy}
          error={sendError}
          onSend={() => void goOut('send')}
          onClose={() => setAsking(false)}
        />
        {correcting ? (
          <CorrectionDialog
            draftId={draft.id}
            asks={plan.ask.kind !== 'nothing'}
            acknowledges={plan.ask.kind === 'acknowledgement'}
            busy={busy}
            error={sendError}
            onPublish={(correction) => void goOut('correct', correction)}
            onClose={() => setCorrecting(false)}
          />
        ) : null}
        <DiscardQuestion
          open={discarding}
          onDiscard={() => void discard()}
          onClose={() => setDiscarding(false)}
        />
        <ConflictQuestion
          conflict={saving.state === 'conflict' ? saving.conflict : null}
          zone={zone}
          nowMs={nowMs}
          onSeparate={() => void deeds.asSeparate({ content, plan })}
          onSaveOver={(conflict) => void saveOver(conflict)}
        />
      </Awake>
    </FilesOf>
  );
}
