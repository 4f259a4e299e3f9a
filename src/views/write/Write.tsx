import { useEffect, useRef, useState } from 'react';
import type { AudienceNames } from '../../core/audience/words.ts';
import { contentProblems, type Content, type EarlierText } from '../../core/content/announcement.ts';
import { markdownOf } from '../../core/content/markdown.ts';
import type { DraftComment } from '../../core/desk/comment.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { PhraseKey } from '../../core/plan/sentence.ts';
import { briefOf, type Forecast } from '../../core/sends/forecast.ts';
import { momentWords, timeWords } from '../../core/timing/words.ts';
import { list } from '../../core/words.ts';
import { ApiProblem, ask, newKey, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { FilesOf } from '../../ui/filesOf.ts';
import { Notice } from '../../ui/Notice.tsx';
import { StateMark } from '../../ui/StateMark.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';
import { Comments, History, Versions } from './Beside.tsx';
import { ContentFields } from './ContentFields.tsx';
import { CorrectionDialog, type Correction } from './CorrectionDialog.tsx';
import type { Choices, Draft } from './draft.ts';
import { Facts, WhoIsMissed } from './Facts.tsx';
import { LastQuestion, sendWords } from './LastQuestion.tsx';
import { AskPanel } from './AskPanel.tsx';
import { HowPanel, WhenPanel } from './Panels.tsx';
import { Preview } from './Preview.tsx';
import { ReviewSteps, type ReviewStep } from './ReviewSteps.tsx';
import { Sentence } from './Sentence.tsx';
import { forgetUnsavedText, useAutosave, useUnsavedText, type Saving } from './useAutosave.ts';
import { WhomPanel } from './WhomPanel.tsx';

function SavingWords({ saving, zone }: { saving: Saving; zone: string }) {
  const words =
    saving.state === 'saved'
      ? `Saved at ${timeWords(saving.savedMs, zone)}`
      : saving.state === 'failed'
        ? `Not saved. ${saving.words} It is kept in this browser and tried again.`
        : saving.state === 'refused'
          ? `Not saved. ${saving.problem.message}`
          : saving.state === 'conflict'
            ? 'Not saved: somebody else saved meanwhile.'
            : 'Saving …';
  const wrong = saving.state === 'failed' || saving.state === 'refused' || saving.state === 'conflict';
  return (
    <p role="status" className={wrong ? 'text-error' : 'text-quiet'}>
      {words}
    </p>
  );
}

/** A draft's text as CommonMark, for taking it elsewhere. */
function markdownFile(content: Content): string {
  const sections = content.sections.map((section) =>
    [section.heading.trim() === '' ? '' : `## ${section.heading.trim()}`, markdownOf(section.document)]
      .filter(Boolean)
      .join('\n\n'),
  );
  const button = content.button ? `[${content.button.label}](<${content.button.url}>)` : '';
  return `${[`# ${content.title.trim()}`, content.byline, ...sections, button].filter(Boolean).join('\n\n')}\n`;
}

function download(name: string, text: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: 'text/markdown' }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

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
  const [forecast, setForecast] = useState(firstForecast);
  const [panel, setPanel] = useState<PhraseKey | null>(null);
  const [asking, setAsking] = useState(false);
  const [discarding, setDiscarding] = useState(false);
  const [problems, setProblems] = useState<{ field: string; detail: string }[]>([]);
  const [sendError, setSendError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [editorKey, setEditorKey] = useState(0);
  const [review, setReview] = useState({ state: draft.review, by: draft.reviewByName });
  const [said, setSaid] = useState<string>();
  const [correcting, setCorrecting] = useState(false);
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
    // A change after clearance needs clearance again.
    // The server says the same: what was cleared waits to be cleared again.
    if (review.state === 'cleared') setReview({ state: 'for review', by: me.name });
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
    ask<{ review: Draft['review']; reviewByName: string | null }>(
      'GET',
      `/api/announcements/${draft.id}`,
    ).then(
      (found) => setReview({ state: found.review, by: found.reviewByName }),
      () => undefined,
    );
  });
  const stepReview = async (step: ReviewStep): Promise<void> => {
    setSendError(undefined);
    setBusy(true);
    try {
      const revision = await flush();
      if (revision === null) throw new Error('The last change is not saved yet. Try again in a moment.');
      await ask('POST', `/api/announcements/${draft.id}/review`, { step, revision });
      const to = ({ 'hand on': 'for review', clear: 'cleared', return: 'none' } as const)[step];
      setReview({ state: to, by: me.name });
      setSaid(
        {
          'hand on': 'It waits for a second person now.',
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
      edit(await ask<Content>('GET', `/api/announcements/${draft.id}/texts/${versionId}`));
      setEditorKey((key) => key + 1);
    } catch (error) {
      setSendError(wordsOf(error));
    }
  };

  // What the plan depends on, as one value: a letter more in the text asks nothing anew.
  const asked = JSON.stringify({ plan, brief: briefOf(content) });
  const first = useRef(true);
  const latest = useRef(0);
  useEffect(() => {
    if (first.current) {
      first.current = false;
      return undefined;
    }
    const mine = ++latest.current;
    const timer = setTimeout(() => {
      ask<Forecast>('POST', '/api/forecast', JSON.parse(asked)).then(
        (found) => {
          if (mine === latest.current) setForecast(found);
        },
        (error: unknown) => setSendError(wordsOf(error)),
      );
    }, 150);
    return () => clearTimeout(timer);
  }, [asked]);

  // The count and the first rows are told at once; the rest of the forecast takes longer and follows.
  const addressed = JSON.stringify({ audience: plan.audience });
  const counted = useRef(addressed);
  useEffect(() => {
    if (counted.current === addressed) return undefined;
    counted.current = addressed;
    let current = true;
    ask<Pick<Forecast, 'people' | 'sample'>>('POST', '/api/count', JSON.parse(addressed)).then(
      (count) => {
        if (current) setForecast((before) => ({ ...before, ...count }));
      },
      () => undefined,
    );
    return () => {
      current = false;
    };
  }, [addressed]);

  const about = (field: string): string | undefined =>
    problems.find((problem) => problem.field === field)?.detail ??
    (saving.state === 'refused' ? saving.problem.about(`content.${field}`) : undefined);

  const askLast = async (): Promise<void> => {
    setBusy(true);
    setSendError(undefined);
    setPanel(null);
    try {
      const current = await ask<Forecast>('POST', '/api/forecast', { plan, brief: briefOf(content) });
      setForecast(current);
      const found = [...contentProblems(content), ...current.problems];
      if (current.clearance.length > 0 && review.state !== 'cleared')
        found.push({
          field: 'review',
          detail: `${list(current.clearance, 'and')} ${current.clearance.length === 1 ? 'asks' : 'ask'} for a second person’s clearance. Hand it on for review.`,
        });
      if (current.right.outcome === 'denied') found.push({ field: 'audience', detail: current.right.reason });
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
      const { occurrenceId } = await ask<{ occurrenceId: number }>(
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
      setSendError(
        step === 'correct' && error instanceof ApiProblem
          ? (error.errors[0]?.detail ?? error.message)
          : wordsOf(error),
      );
      setBusy(false);
    }
  };
  const leave = async (): Promise<void> => {
    try {
      await ask('POST', `/api/announcements/${draft.id}/leave`);
      location.assign('/run-sheet');
    } catch (error) {
      setSendError(wordsOf(error));
    }
  };
  const begin = async (path: string, then: (id: number) => void): Promise<void> => {
    setSendError(undefined);
    try {
      if ((await flush()) === null)
        throw new Error('The last change is not saved yet. Try again in a moment.');
      const { id } = await ask<{ id: number }>('POST', `/api/announcements/${draft.id}/${path}`);
      then(id);
    } catch (error) {
      setSendError(wordsOf(error));
    }
  };
  const sendTest = async (): Promise<void> => {
    setSendError(undefined);
    try {
      if ((await flush()) === null)
        throw new Error('The last change is not saved yet. Try again in a moment.');
      await ask('POST', `/api/announcements/${draft.id}/test`, undefined, newKey());
      setSaid('A test goes to you alone, in your inbox and by mail, in ten seconds.');
    } catch (error) {
      setSendError(
        error instanceof ApiProblem
          ? [error.message, ...error.errors.map((each) => each.detail)].join(' ')
          : wordsOf(error),
      );
    }
  };
  const rehearse = async (): Promise<void> => {
    setBusy(true);
    if ((await flush()) === null) {
      setSendError('The last change is not saved yet. Try again in a moment.');
      setBusy(false);
    } else location.assign(`/write/${draft.id}/rehearsal`);
  };
  const discard = async (): Promise<void> => {
    try {
      await ask('DELETE', `/api/announcements/${draft.id}`);
      location.assign('/write');
    } catch (error) {
      setDiscarding(false);
      setSendError(wordsOf(error));
    }
  };
  const asSeparate = async (): Promise<void> => {
    try {
      const { id } = await ask<{ id: number }>('POST', '/api/announcements');
      await ask('PUT', `/api/announcements/${id}`, { content, plan, revision: 1 });
      forgetUnsavedText(draft.id);
      location.assign(`/write/${id}`);
    } catch (error) {
      setSendError(wordsOf(error));
    }
  };

  const awake = useAwake();
  const shared = { plan, choices, zone, nowMs, onChange: replan };
  const audienceNames: AudienceNames = {
    group: (id) => choices.audience.groups.find((group) => group.id === id)?.name,
    station: (id) => choices.audience.stations.find((station) => station.id === id)?.name,
    person: (id) => choices.people[String(id)],
    occurrence: (id) => choices.audience.asks.find((each) => each.occurrenceId === id)?.title,
  };
  const isTemplate = draft.state === 'template';
  const headings = { send: 'Write', change: 'Change what recurs', correct: 'Correct what has gone' } as const;
  return (
    <FilesOf value={`?draft=${draft.id}`}>
      <fieldset disabled={!awake} className="contents">
        <div className="mb-3 flex flex-wrap items-baseline justify-between gap-x-6">
          <h1 className="text-2xl">{isTemplate ? 'A template' : headings[draft.purpose]}</h1>
          <SavingWords saving={saving} zone={zone} />
        </div>
        {draft.purpose === 'send' ? null : (
          <div className="mb-4">
            <Notice tone="info">
              {draft.purpose === 'change'
                ? 'It goes on as it was until you confirm the change; then the next one goes out with this text and plan. '
                : 'Readers see the old text until you publish the correction; then they see this one, with a note. '}
              <button type="button" className="btn btn-outline btn-sm" onClick={() => void leave()}>
                Leave it as it was
              </button>
            </Notice>
          </div>
        )}
        {kept && editorKey === 0 && saving.state === 'saved' ? (
          <div className="mb-4">
            <Notice tone="info">
              A text of this draft that was not saved is kept in this browser. Brought back, it takes the
              place of the one here, which stays among the versions.{' '}
              <button type="button" className="btn btn-outline btn-sm" onClick={() => bringBack(kept)}>
                Bring it back
              </button>
            </Notice>
          </div>
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
            <div className="flex flex-wrap gap-2">
              <button type="button" className="btn btn-outline btn-sm" onClick={() => void sendTest()}>
                Send a test to me
              </button>
              <button
                type="button"
                className="btn btn-outline btn-sm"
                onClick={() => void begin('copy', (id) => location.assign(`/write/${id}`))}
              >
                {isTemplate ? 'Start a draft from it' : 'Copy'}
              </button>
              {isTemplate ? null : (
                <button
                  type="button"
                  className="btn btn-outline btn-sm"
                  onClick={() => void begin('template', () => setSaid('It is kept as a template.'))}
                >
                  Keep as a template
                </button>
              )}
              <button
                type="button"
                className="btn btn-outline btn-sm"
                onClick={() => download('announcement.md', markdownFile(content))}
              >
                Take it as Markdown
              </button>
              {draft.purpose === 'send' ? (
                <button type="button" className="btn btn-ghost btn-sm" onClick={() => setDiscarding(true)}>
                  Throw this {isTemplate ? 'template' : 'draft'} away
                </button>
              ) : null}
            </div>
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
        <section
          aria-label="The plan"
          className="-mx-4 mt-8 border-t-2 border-base-content bg-base-200 px-4 pt-2 pb-2 sm:sticky sm:bottom-0 sm:z-20"
        >
          <Sentence
            phrases={forecast.phrases}
            open={panel}
            onOpen={setPanel}
            panel={(key) =>
              key === 'whom' ? (
                <WhomPanel {...shared} audienceNames={audienceNames} />
              ) : key === 'how' ? (
                <HowPanel {...shared} />
              ) : key === 'when' ? (
                <WhenPanel {...shared} forecast={forecast} hasEvent={content.event !== null} />
              ) : (
                <AskPanel {...shared} />
              )
            }
          />
          {problems.length > 0 ? (
            <div role="alert" className="mt-2 border-l-4 border-error bg-base-100 px-4 py-2 text-error">
              <p>It cannot go out yet:</p>
              <ul className="list-disc pl-5">
                {problems.map((problem) => (
                  <li key={problem.field + problem.detail}>{problem.detail}</li>
                ))}
              </ul>
            </div>
          ) : null}
          {sendError !== undefined && !asking && !correcting ? (
            <Notice tone="error">{sendError}</Notice>
          ) : null}
          <div className="mt-2 flex flex-wrap items-center justify-between gap-3">
            <Facts forecast={forecast} plan={plan} zone={zone} nowMs={nowMs} />
            <div className="flex flex-wrap items-center gap-3">
              <StateMark state={review.state === 'none' ? 'draft' : review.state} />
              {review.by !== null && review.state !== 'none' ? (
                <span className="text-sm text-quiet">by {review.by}</span>
              ) : null}
              {isTemplate ? null : (
                <>
                  <ReviewSteps
                    state={review.state}
                    mayClear={draft.clearing === null}
                    busy={busy}
                    onStep={(step) => void stepReview(step)}
                  />
                  <button
                    type="button"
                    className="btn btn-outline"
                    disabled={busy}
                    onClick={() => void rehearse()}
                  >
                    Rehearse
                  </button>
                  <button
                    type="button"
                    className="btn btn-primary btn-lg"
                    disabled={busy}
                    onClick={() => {
                      if (draft.purpose === 'correct') {
                        sendKey.current = newKey();
                        setCorrecting(true);
                      } else void askLast();
                    }}
                  >
                    {draft.purpose === 'correct'
                      ? 'Publish the correction'
                      : draft.purpose === 'change'
                        ? 'Change it from the next one on'
                        : forecast.people > 0 || forecast.boards.length > 0
                          ? sendWords(forecast, plan)
                          : 'Send'}{' '}
                    …
                  </button>
                </>
              )}
            </div>
          </div>
          {review.state === 'for review' && draft.clearing !== null ? (
            <p className="text-sm text-quiet">{draft.clearing}</p>
          ) : null}
          <WhoIsMissed forecast={forecast} />
        </section>
        <LastQuestion
          open={asking}
          forecast={forecast}
          plan={plan}
          content={content}
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
        <Dialog
          open={discarding}
          title="Throw this draft away?"
          onClose={() => setDiscarding(false)}
          actions={
            <>
              <button type="button" className="btn btn-ghost" onClick={() => setDiscarding(false)}>
                Keep it
              </button>
              <button type="button" className="btn btn-error" onClick={() => void discard()}>
                Throw it away
              </button>
            </>
          }
        >
          <p>The text and its plan are gone after this. Nobody has got it.</p>
        </Dialog>
        <Dialog
          open={saving.state === 'conflict'}
          title="Two texts of this draft"
          mustAnswer
          onClose={() => undefined}
          actions={
            saving.state === 'conflict' ? (
              <>
                <button type="button" className="btn btn-ghost" onClick={() => location.reload()}>
                  Take theirs
                </button>
                <button type="button" className="btn btn-outline" onClick={() => void asSeparate()}>
                  Keep mine as a separate draft
                </button>
                <button
                  type="button"
                  className="btn btn-primary"
                  onClick={() => void saveOver(saving.conflict)}
                >
                  Save mine over theirs
                </button>
              </>
            ) : null
          }
        >
          {saving.state === 'conflict' ? (
            <p>
              {saving.conflict.savedBy} saved another text of this draft in another window, at{' '}
              {momentWords(saving.conflict.savedMs, zone, nowMs)}. Yours is not saved yet. Neither is lost: a
              text that is saved over is kept among its versions.
            </p>
          ) : null}
        </Dialog>
      </fieldset>
    </FilesOf>
  );
}
