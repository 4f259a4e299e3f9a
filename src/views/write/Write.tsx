import { useState } from 'react';
import type { EarlierText } from '../../core/content/announcement.ts';
import type { DraftComment } from '../../core/desk/comment.ts';
import type { PhraseKey } from '../../core/plan/sentence.ts';
import type { Forecast } from '../../core/sends/forecast.ts';
import { Awake } from '../../ui/Awake.tsx';
import { wordsOf } from '../../ui/api.ts';
import { FilesOf } from '../../ui/filesOf.ts';
import { Notice } from '../../ui/Notice.tsx';
import { AskPanel } from './asks/AskPanel.tsx';
import { Comments, History, Versions } from './Beside.tsx';
import { ContentFields } from './ContentFields.tsx';
import { HEADINGS, namesFrom, type Choices, type Draft } from './draft.ts';
import { KeptNotice, PurposeNotice } from './DraftNotices.tsx';
import { NextSteps } from './NextSteps.tsx';
import { HowPanel, WhenPanel } from './Panels.tsx';
import { PlanFoot } from './PlanFoot.tsx';
import { Preview } from './Preview.tsx';
import { Questions } from './Questions.tsx';
import { SavingWords } from './SavingWords.tsx';
import { AlsoOpen, SharedWith } from './Sharing.tsx';
import { TextTools } from './TextTools.tsx';
import { useWriting, type Writing } from './useWriting.ts';
import { WhomPanel } from './WhomPanel.tsx';

interface Around {
  draft: Draft;
  choices: Choices;
  zone: string;
  nowMs: number;
  writing: Writing;
}

function TheText({ draft, choices, zone, nowMs, writing, onDiscard }: Around & { onDiscard: () => void }) {
  const { content, editorKey, about, edit, deeds, said, setSaid } = writing;
  return (
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
        isTemplate={draft.state === 'template'}
        content={content}
        onTest={() => void deeds.sendTest()}
        onCopy={() => void deeds.begin('copy', (id) => location.assign(`/write/${id}`))}
        onTemplate={() => void deeds.begin('template', () => setSaid('It is kept as a template.'))}
        onDiscard={draft.purpose === 'send' ? onDiscard : null}
      />
      {said === undefined ? null : <Notice tone="success">{said}</Notice>}
    </section>
  );
}

/** What the reader sees, and under it what was said and done about the draft. */
function BesideText({
  draft,
  earlier,
  comments,
  choices,
  zone,
  nowMs,
  me,
  writing,
}: Around & { earlier: EarlierText[]; comments: DraftComment[]; me: { id: number; name: string } }) {
  return (
    <section aria-label="What the reader sees" className="lg:border-l lg:border-base-300 lg:pl-8">
      <Preview
        draftId={draft.id}
        savedRevision={writing.savedMs}
        content={writing.content}
        plan={writing.plan}
        choices={choices}
        nowMs={nowMs}
        me={me}
      />
      <div className="mt-6 border-t border-base-300">
        {draft.state === 'template' ? null : <SharedWith draftId={draft.id} flush={writing.flush} />}
        <Comments draftId={draft.id} first={comments} zone={zone} nowMs={nowMs} />
        <Versions
          draftId={draft.id}
          versions={earlier}
          zone={zone}
          nowMs={nowMs}
          onBringBack={(versionId) => void writing.bringBackEarlier(versionId)}
        />
        <History draftId={draft.id} zone={zone} nowMs={nowMs} />
      </div>
    </section>
  );
}

/** The sentence of who gets it and when, its panels, and what comes next. */
function Foot({ draft, choices, zone, nowMs, writing }: Around) {
  const [panel, setPanel] = useState<PhraseKey | null>(null);
  const { content, plan, forecast, sending, review, busy, deeds } = writing;
  const shared = { plan, choices, zone, nowMs, onChange: writing.replan };
  const failed = writing.error ?? (writing.forecastError ? wordsOf(writing.forecastError) : undefined);
  return (
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
      problems={sending.problems}
      error={sending.asking ? undefined : failed}
      review={review}
      clearing={draft.clearing}
    >
      {draft.state === 'template' ? null : (
        <NextSteps
          draftId={draft.id}
          purpose={draft.purpose}
          review={review.state}
          mayClear={draft.clearing === null}
          forecast={forecast}
          plan={plan}
          busy={busy}
          onReview={(step, asked) => void writing.stepReview(step, asked)}
          onRehearse={() => void deeds.rehearse()}
          onSend={() => {
            setPanel(null);
            void sending.askLast();
          }}
          onCorrect={() => sending.ask('correct')}
        />
      )}
    </PlanFoot>
  );
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
  const writing = useWriting(draft, firstForecast, me);
  const [discarding, setDiscarding] = useState(false);
  const around = { draft, choices, zone, nowMs, writing };
  return (
    <FilesOf value={`?draft=${draft.id}`}>
      <Awake>
        <div className="mb-3 flex flex-wrap items-baseline justify-between gap-x-6">
          <h1 className="text-2xl">{draft.state === 'template' ? 'A template' : HEADINGS[draft.purpose]}</h1>
          <AlsoOpen draftId={draft.id} />
          <SavingWords saving={writing.saving} zone={zone} />
        </div>
        <PurposeNotice purpose={draft.purpose} onLeave={() => void writing.deeds.leave()} />
        {writing.kept ? <KeptNotice onBringBack={writing.bringBackKept} /> : null}
        <div className="grid gap-8 lg:grid-cols-[minmax(0,1fr)_minmax(0,26rem)]">
          <TheText {...around} onDiscard={() => setDiscarding(true)} />
          <BesideText {...around} earlier={earlier} comments={comments} me={me} />
        </div>
        <Foot {...around} />
        <Questions {...around} discarding={discarding} onKeep={() => setDiscarding(false)} />
      </Awake>
    </FilesOf>
  );
}
