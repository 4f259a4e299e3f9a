import { useState } from 'react';
import type { Automation as Written } from '../../core/automation/automation.ts';
import type { AutomationChoices } from '../../core/automation/choices.ts';
import { fieldsOf } from '../../core/automation/fields.ts';
import { fitsWhen, hookOf, sheetOf, targetOf } from '../../core/automation/automation.ts';
import type { AutomationPage } from '../../core/automation/page.ts';
import { automationProblems } from '../../core/automation/problems.ts';
import { automationSentence, type AutomationPhraseKey } from '../../core/automation/words.ts';
import type { Problem } from '../../core/content/announcement.ts';
import { nearWords } from '../../core/timing/words.ts';
import { Awake } from '../../ui/Awake.tsx';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { Sentence } from '../../ui/Sentence.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { Bench } from './Bench.tsx';
import { ConditionFields } from './ConditionFields.tsx';
import { Head } from './Head.tsx';
import { Limits } from './Limits.tsx';
import { namesFrom, PHRASE_LABELS } from './names.ts';
import { DuePanel, EachPanel, FromPanel, LookupPanel, OtherwisePanel, type PanelProps } from './panels.tsx';
import { ReplayView } from './ReplayView.tsx';
import { RunList } from './RunList.tsx';
import { Saying } from './Saying.tsx';
import { useSaved } from './useSaved.ts';
import { Versions } from './Versions.tsx';
import { TellPanel } from './TellPanel.tsx';
import { WhenFields } from './WhenPanel.tsx';

/** An automation: one sentence whose phrases are pressed, what it says, and the bench on which it is tried. */
export default function Automation({
  first,
  choices: given,
  zone,
  nowMs,
}: {
  first: AutomationPage;
  choices: AutomationChoices;
  zone: string;
  nowMs: number;
}) {
  const { id } = first;
  const page = useServer(`/api/automations/${id}`, { first, topics: [`automation:${id}`] }).data ?? first;
  const [automation, setAutomation] = useState(first.automation);
  const [choices, setChoices] = useState(given);
  const [open, setOpen] = useState<AutomationPhraseKey | null>(null);
  const [refused, setRefused] = useState<Problem[]>([]);
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const { saving, changed, flush } = useSaved(id, first.revision);

  const sheetId = sheetOf(automation.when);
  const columns = choices.sheets.find((sheet) => sheet.id === sheetId)?.columns ?? [];
  const source = choices.sources.find((each) => each.id === automation.lookup?.sourceId);
  const hook = choices.hooks.find((each) => each.id === hookOf(automation.when));
  const fields = fieldsOf(automation.when, columns, source?.fields ?? [], hook?.fields ?? []);
  const phrases = automationSentence(automation, fields, namesFrom(choices));
  const problems = automationProblems(automation, fields);

  const change = (part: Partial<Written>): void => {
    const next = { ...automation, ...part };
    setAutomation(next);
    setRefused([]);
    changed(next);
  };
  const press = (key: AutomationPhraseKey | null): void => {
    if (key !== 'saying') {
      setOpen(key);
      return;
    }
    setOpen(null);
    document.getElementById('saying-title')?.focus();
  };
  const publish = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const revision = await flush();
      if (revision === null) throw new Error('The last change is not saved yet. Try again in a moment.');
      const { version } = await request('POST', `/api/automations/${id}/publish`, {
        revision,
      });
      await refetch('/api/automations');
      await done(`It is at work, by version ${version}.`);
    } catch (failure) {
      if (failure instanceof ApiProblem && failure.errors.length > 0) setRefused(failure.errors);
      else setError(wordsOf(failure));
    }
    setBusy(false);
  };
  const panel: PanelProps = { automation, choices, fields, zone, nowMs, onChange: change };
  const told = refused.length > 0 ? refused : problems;
  const untried = automation.content.title.trim() === '' ? 'Write what it says first.' : null;
  return (
    <Awake>
      <h1 className="sr-only">{automation.name}</h1>
      <Head page={page} automation={automation} saving={saving} onChange={change} />
      <section
        aria-label="The automation in a sentence"
        className="my-4 border-y-2 border-base-content bg-base-200 px-4 py-3"
      >
        <Sentence
          phrases={phrases}
          labels={PHRASE_LABELS}
          open={open}
          onOpen={press}
          panel={(key) => <Panel which={key} {...panel} onChoices={setChoices} />}
        />
        <div className="mt-3 flex flex-wrap items-center justify-between gap-3">
          <p className="text-quiet">
            {page.nextMs === null ? '' : `Next ${nearWords(page.nextMs, zone, nowMs)}. `}
            {page.live && page.changed ? 'What is written differs from what is at work.' : ''}
          </p>
          <button
            type="button"
            className="btn btn-primary"
            disabled={busy || (page.live && !page.changed && page.state === 'on' && saving.state === 'saved')}
            onClick={() => void publish()}
          >
            {page.live ? 'Put the change to work' : 'Put it to work'}
          </button>
        </div>
        {told.length > 0 && (refused.length > 0 || !page.live) ? (
          <ul
            className={refused.length > 0 ? 'text-error' : 'text-quiet'}
            role={refused.length > 0 ? 'alert' : undefined}
          >
            {told.map((each) => (
              <li key={each.field + each.detail}>{each.detail}</li>
            ))}
          </ul>
        ) : null}
        {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      </section>
      <div className="grid gap-8 lg:grid-cols-[minmax(0,1fr)_minmax(0,27rem)]">
        <div className="flex flex-col gap-6">
          <Saying
            id={id}
            automation={automation}
            fields={fields}
            about={(field) =>
              refused.length > 0 || !page.live
                ? told.find((each) => each.field === `content.${field}`)?.detail
                : undefined
            }
            onChange={change}
          />
          <Limits automation={automation} onChange={change} />
        </div>
        <div className="flex flex-col gap-8 lg:border-l lg:border-base-300 lg:pl-8">
          <Bench id={id} automation={automation} problem={untried} />
          <ReplayView id={id} automation={automation} zone={zone} problem={untried} />
        </div>
      </div>
      <section aria-label="Runs" className="mt-8">
        <div className="flex items-baseline justify-between">
          <h2 className="text-xl">What it did</h2>
          <a className="link" href="/automations/runs">
            All runs
          </a>
        </div>
        <RunList runs={page.runs} zone={zone} nowMs={nowMs} named={false} />
      </section>
      <Versions page={page} zone={zone} nowMs={nowMs} flush={flush} />
    </Awake>
  );
}

function Panel({
  which,
  onChoices,
  ...panel
}: PanelProps & { which: AutomationPhraseKey; onChoices: (choices: AutomationChoices) => void }) {
  const { automation, choices, fields, zone, nowMs, onChange } = panel;
  switch (which) {
    case 'when':
      return (
        <WhenFields
          when={automation.when}
          choices={choices}
          zone={zone}
          nowMs={nowMs}
          onChange={(when) =>
            onChange({
              when,
              ...(fitsWhen(automation.tell.to, when)
                ? {}
                : { tell: { ...automation.tell, to: targetOf(when) } }),
            })
          }
        />
      );
    case 'if':
      return (
        <ConditionFields
          condition={automation.if}
          fields={fields}
          onChange={(condition) => onChange({ if: condition })}
        />
      );
    case 'each':
      return <EachPanel {...panel} />;
    case 'lookup':
      return <LookupPanel {...panel} />;
    case 'tell':
      return <TellPanel {...panel} />;
    case 'due':
      return <DuePanel {...panel} />;
    case 'from':
      return (
        <FromPanel
          {...panel}
          onSender={(sender) => {
            onChoices({ ...choices, senders: [...choices.senders, sender] });
            onChange({ senderId: sender.id });
          }}
        />
      );
    case 'otherwise':
      return <OtherwisePanel {...panel} />;
    case 'saying':
      return null;
  }
}
