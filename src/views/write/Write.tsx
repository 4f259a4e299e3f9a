import { useEffect, useRef, useState } from 'react';
import {
  contentProblems,
  IMPORTANCES,
  MAX_BYLINE,
  MAX_TITLE,
  type Content,
  type EarlierText,
} from '../../core/content/announcement.ts';
import { documentHtml } from '../../core/content/html.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { PhraseKey } from '../../core/plan/sentence.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { dateWords, momentWords, timeWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { ApiProblem, ask, newKey, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { Matter, MatterButton } from '../../ui/Matter.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import type { Choices, Draft } from './draft.ts';
import { Editor } from './Editor.tsx';
import { LastQuestion, sendWords } from './LastQuestion.tsx';
import { AskPanel, HowPanel, WhenPanel, WhomPanel } from './Panels.tsx';
import { Sentence } from './Sentence.tsx';
import { forgetKeptText, useAutosave, useKeptText, type Saving } from './useAutosave.ts';

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

/** The writing screen: the text, what the reader will see, and the sentence that says who gets it and when. */
export default function Write({
  draft,
  earlier,
  forecast: firstForecast,
  choices,
  zone,
  nowMs,
}: {
  draft: Draft;
  earlier: EarlierText[];
  forecast: Forecast;
  choices: Choices;
  zone: string;
  nowMs: number;
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
  const { saving, changed, flush, saveOver } = useAutosave(draft);
  const sendKey = useRef<string | null>(null);

  const kept = useKeptText(draft.id, draft.revision);
  const bringBack = (text: NonNullable<typeof kept>): void => {
    setContent(text.content);
    setPlan(text.plan);
    setEditorKey(1);
    changed(text);
  };

  const edit = (part: Partial<Content>): void => {
    const next = { ...content, ...part };
    setContent(next);
    setProblems([]);
    changed({ content: next, plan });
  };
  const replan = (next: Plan): void => {
    setPlan(next);
    setProblems([]);
    changed({ content, plan: next });
  };

  const bringBackEarlier = async (versionId: number): Promise<void> => {
    try {
      edit(await ask<Content>('GET', `/api/announcements/${draft.id}/texts/${versionId}`));
      setEditorKey((key) => key + 1);
    } catch (error) {
      setSendError(wordsOf(error));
    }
  };

  const first = useRef(true);
  const latest = useRef(0);
  useEffect(() => {
    if (first.current) {
      first.current = false;
      return undefined;
    }
    const mine = ++latest.current;
    const timer = setTimeout(() => {
      ask<Forecast>('POST', '/api/forecast', { plan, importance: content.importance }).then(
        (found) => {
          if (mine === latest.current) setForecast(found);
        },
        (error: unknown) => setSendError(wordsOf(error)),
      );
    }, 150);
    return () => clearTimeout(timer);
  }, [plan, content.importance]);

  const about = (field: string): string | undefined =>
    problems.find((problem) => problem.field === field)?.detail ??
    (saving.state === 'refused' ? saving.problem.about(`content.${field}`) : undefined);

  const askLast = async (): Promise<void> => {
    setBusy(true);
    setSendError(undefined);
    setPanel(null);
    try {
      const current = await ask<Forecast>('POST', '/api/forecast', { plan, importance: content.importance });
      setForecast(current);
      const found = [...contentProblems(content), ...current.problems];
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
  const send = async (): Promise<void> => {
    setBusy(true);
    setSendError(undefined);
    try {
      const revision = await flush();
      if (revision === null) throw new Error('The last change is not saved yet. Try again in a moment.');
      const { occurrenceId } = await ask<{ occurrenceId: number }>(
        'POST',
        `/api/announcements/${draft.id}/send`,
        { revision },
        sendKey.current ?? newKey(),
      );
      location.assign(`/sends/${occurrenceId}`);
    } catch (error) {
      if (error instanceof ApiProblem && typeof error.document.occurrenceId === 'number') {
        location.assign(`/sends/${error.document.occurrenceId}`);
        return;
      }
      setSendError(wordsOf(error));
      setBusy(false);
    }
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
      forgetKeptText(draft.id);
      location.assign(`/write/${id}`);
    } catch (error) {
      setSendError(wordsOf(error));
    }
  };

  const missed = forecast.missed.reduce((sum, each) => sum + (each.kind === 'left' ? 0 : each.n), 0);
  const awake = useAwake();
  const shared = { plan, choices, zone, nowMs, onChange: replan };
  return (
    <fieldset disabled={!awake} className="contents">
      <div className="mb-3 flex flex-wrap items-baseline justify-between gap-x-6">
        <h1 className="text-2xl">Write</h1>
        <SavingWords saving={saving} zone={zone} />
      </div>
      {kept && editorKey === 0 && saving.state === 'saved' ? (
        <div className="mb-4">
          <Notice tone="info">
            A text of this draft that could not be saved is kept in this browser.{' '}
            <button type="button" className="btn btn-outline btn-sm" onClick={() => bringBack(kept)}>
              Bring it back
            </button>
          </Notice>
        </div>
      ) : null}
      <div className="grid gap-8 lg:grid-cols-[minmax(0,1fr)_minmax(0,26rem)]">
        <section aria-label="The text" className="flex flex-col gap-4">
          <label className="flex flex-col gap-1">
            Title
            <input
              className="input w-full font-display text-xl font-semibold"
              value={content.title}
              maxLength={MAX_TITLE}
              onChange={(event) => edit({ title: event.target.value })}
              aria-invalid={about('title') !== undefined}
              dir="auto"
            />
            {about('title') === undefined ? null : <span className="text-error">{about('title')}</span>}
          </label>
          <div className="grid gap-4 sm:grid-cols-[1fr_12rem]">
            <label className="flex flex-col gap-1">
              Byline, such as “from the office of …”
              <input
                className="input w-full"
                value={content.byline}
                maxLength={MAX_BYLINE}
                onChange={(event) => edit({ byline: event.target.value })}
                dir="auto"
              />
            </label>
            <label className="flex flex-col gap-1">
              Importance
              <select
                className="select w-full"
                value={content.importance}
                onChange={(event) =>
                  edit({ importance: IMPORTANCES.find((each) => each === event.target.value) ?? 'routine' })
                }
              >
                {IMPORTANCES.map((importance) => (
                  <option key={importance}>{importance}</option>
                ))}
              </select>
            </label>
          </div>
          <div>
            <Editor key={editorKey} document={content.document} onChange={(document) => edit({ document })} />
            {about('document') === undefined ? null : <p className="text-error">{about('document')}</p>}
          </div>
          <fieldset>
            <label className="flex min-h-11 cursor-pointer items-center gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-primary"
                checked={content.button !== null}
                onChange={(event) =>
                  edit({ button: event.target.checked ? { label: '', url: 'https://' } : null })
                }
              />
              A button with a link
            </label>
            {content.button ? (
              <div className="grid gap-3 sm:grid-cols-2">
                <label className="flex flex-col gap-1">
                  It says
                  <input
                    className="input w-full"
                    value={content.button.label}
                    maxLength={60}
                    onChange={(event) =>
                      edit({ button: { url: content.button?.url ?? '', label: event.target.value } })
                    }
                    aria-invalid={about('button.label') !== undefined}
                  />
                  {about('button.label') === undefined ? null : (
                    <span className="text-error">{about('button.label')}</span>
                  )}
                </label>
                <label className="flex flex-col gap-1">
                  It leads to
                  <input
                    className="input w-full"
                    value={content.button.url}
                    onChange={(event) =>
                      edit({ button: { label: content.button?.label ?? '', url: event.target.value } })
                    }
                    aria-invalid={about('button.url') !== undefined}
                  />
                  {about('button.url') === undefined ? null : (
                    <span className="text-error">{about('button.url')}</span>
                  )}
                </label>
              </div>
            ) : null}
          </fieldset>
          {earlier.length > 0 ? (
            <details>
              <summary className="min-h-11 cursor-pointer link-quiet">Texts that were saved over</summary>
              <ul className="ledger">
                {earlier.map((text) => (
                  <li key={text.id}>
                    <time className="margin">{timeWords(text.keptMs, zone)}</time>
                    <div>
                      <span className="font-semibold" dir="auto">
                        {text.title || 'Without a title'}
                      </span>{' '}
                      <span className="text-sm text-quiet">
                        {text.author}, {dateWords(text.keptMs, zone, nowMs)}
                      </span>
                      <p className="text-sm text-quiet" dir="auto">
                        {text.excerpt}
                      </p>
                    </div>
                    <div className="state">
                      <button
                        type="button"
                        className="btn btn-outline btn-sm"
                        onClick={() => void bringBackEarlier(text.id)}
                        aria-label={`Bring back ${text.title}`}
                      >
                        Bring back
                      </button>
                    </div>
                  </li>
                ))}
              </ul>
            </details>
          ) : null}
          <div>
            <button type="button" className="btn btn-ghost" onClick={() => setDiscarding(true)}>
              Throw this draft away
            </button>
          </div>
        </section>
        <section aria-label="What the reader sees" className="lg:border-l lg:border-base-300 lg:pl-8">
          <p className="mb-2 text-sm text-quiet">What the reader sees</p>
          <article className="border border-base-300 bg-base-100 p-5">
            <ImportanceWord importance={content.importance} />
            <h2 className="text-xl" dir="auto">
              {content.title.trim() || <span className="text-quiet">Without a title</span>}
            </h2>
            <p className="mb-3 text-sm text-quiet" dir="auto">
              {content.byline}
            </p>
            <Matter html={documentHtml(content.document)} />
            <MatterButton button={content.button?.label ? { ...content.button, url: '#preview' } : null} />
            {plan.ask.kind === 'acknowledgement' ? (
              <p className="mt-4">
                <span className="btn btn-primary pointer-events-none">Acknowledge</span>
              </p>
            ) : null}
          </article>
        </section>
      </div>
      <section
        aria-label="The plan"
        className="-mx-4 mt-8 border-t-2 border-base-content bg-base-200 px-4 pt-3 pb-4 sm:sticky sm:bottom-0 sm:z-20"
      >
        <Sentence
          phrases={forecast.phrases}
          open={panel}
          onOpen={setPanel}
          panel={(key) =>
            key === 'whom' ? (
              <WhomPanel {...shared} />
            ) : key === 'how' ? (
              <HowPanel {...shared} />
            ) : key === 'when' ? (
              <WhenPanel {...shared} dueMs={forecast.dueMs} clockNote={forecast.clockNote} />
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
        {sendError !== undefined && !asking ? <Notice tone="error">{sendError}</Notice> : null}
        <div className="mt-2 flex flex-wrap items-center justify-between gap-3">
          <p aria-live="polite">
            {forecast.people > 0 ? (
              <>
                Goes to <strong className="figure">{people(forecast.people)}</strong>, each once
                {plan.mail ? (
                  <>
                    , <strong className="figure">{forecast.byMail.toLocaleString('en-GB')}</strong> by mail
                    too
                  </>
                ) : null}
                .{' '}
              </>
            ) : (
              'Nobody is chosen yet. '
            )}
            {missed > 0 ? <span className="text-warning">{missed} will be missed by mail. </span> : null}
          </p>
          <button
            type="button"
            className="btn btn-primary btn-lg"
            disabled={busy}
            onClick={() => void askLast()}
          >
            {forecast.people > 0 || forecast.boards.length > 0 ? sendWords(forecast, plan) : 'Send'} …
          </button>
        </div>
        {forecast.missed.length > 0 ? (
          <details className="mt-1">
            <summary className="min-h-9 cursor-pointer link-quiet">
              Who would be missed, and what happens instead
            </summary>
            <ul className="max-h-48 overflow-y-auto pb-2">
              {forecast.missed.map((each) => (
                <li key={each.kind} className="border-t border-base-300 py-1">
                  {each.detail} <span className="text-quiet">{each.names.join(', ')}</span>
                </li>
              ))}
            </ul>
          </details>
        ) : null}
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
        onSend={() => void send()}
        onClose={() => setAsking(false)}
      />
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
  );
}
