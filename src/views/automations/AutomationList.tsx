import { useState } from 'react';
import type { AutomationChoices } from '../../core/automation/choices.ts';
import { RUN_WORDS, type AutomationLine } from '../../core/automation/run.ts';
import { nearWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { lazily } from '../../ui/lazily.tsx';
import { useServer } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Standing } from './Standing.tsx';

export interface Lately {
  runs: number;
  said: number;
  people: number;
  failed: number;
  missing: number;
}

const MakeOne = lazily(() => import('./MakeOne.tsx').then((module) => module.MakeOne));

const TOPICS = ['automations'];

/** The automations: each with its sentence, whether it is at work, what it said lately and what became of its last run. */
export default function AutomationList({
  first,
  choices,
  lately,
  zone,
  nowMs,
}: {
  first: AutomationLine[];
  choices: AutomationChoices;
  lately: Lately;
  zone: string;
  nowMs: number;
}) {
  const lines = useServer('/api/automations', { first, topics: TOPICS }).data ?? first;
  const [making, setMaking] = useState(false);
  const awake = useAwake();
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Automations</h1>
        <a className="btn btn-ghost" href="/automations/runs">
          Runs
        </a>
        <a className="btn btn-ghost" href="/sheets">
          Record sheets
        </a>
        <a className="btn btn-ghost" href="/sources">
          Sources
        </a>
        <a className="btn btn-ghost" href="/directory">
          Directory
        </a>
        <button type="button" className="btn btn-primary" disabled={!awake} onClick={() => setMaking(true)}>
          Make an automation
        </button>
      </div>
      {lately.runs === 0 ? null : (
        <p className="mb-4 border-l-4 border-info bg-base-200 px-4 py-2">
          In the last 24 hours {lately.runs === 1 ? 'one ran' : `${lately.runs} ran`}: {people(lately.people)}{' '}
          told
          {lately.missing > 0 ? (
            <>
              ,{' '}
              <a className="link" href="/directory">
                {lately.missing} not found
              </a>
            </>
          ) : null}
          {lately.failed > 0 ? `, ${lately.failed} failed` : ''}.
        </p>
      )}
      {lines.length === 0 ? (
        <p className="text-quiet">
          There are none yet. An automation speaks by itself: it welcomes whoever joins, reminds before what
          recurs, tells the right person of a record that is complete.
        </p>
      ) : (
        <ul className="ledger">
          {lines.map((line) => (
            <Line key={line.id} line={line} zone={zone} nowMs={nowMs} />
          ))}
        </ul>
      )}
      {making ? (
        <MakeOne choices={choices} zone={zone} nowMs={nowMs} onClose={() => setMaking(false)} />
      ) : null}
    </>
  );
}

function Line({ line, zone, nowMs }: { line: AutomationLine; zone: string; nowMs: number }) {
  return (
    <li>
      <span className="margin figure" title="Said in the last seven days">
        {line.saidWeek}
      </span>
      <span>
        {line.mayChange ? (
          <a className="link-quiet font-semibold" href={`/automations/${line.id}`} dir="auto">
            {line.name}
          </a>
        ) : (
          <span className="font-semibold" dir="auto">
            {line.name}
          </span>
        )}
        <span className="block" dir="auto">
          {line.sentence}
        </span>
        <span className="block text-sm text-quiet" dir="auto">
          Looked after by {line.owner}. {line.saidWeek} said in seven days
          {line.keptBackWeek > 0 ? `, ${line.keptBackWeek} kept back` : ''}.
          {line.nextMs === null ? '' : ` Next ${nearWords(line.nextMs, zone, nowMs)}.`}
          {line.last?.endedMs
            ? ` Last run ${nearWords(line.last.endedMs, zone, nowMs)}: ${RUN_WORDS[line.last.state]}.`
            : ''}
        </span>
        {line.whyPaused === null ? null : <span className="block text-warning">{line.whyPaused}</span>}
      </span>
      <span className="state text-sm">
        <Standing state={line.state} published={line.published} />
        {line.changed ? <span className="block text-quiet">changed since</span> : null}
      </span>
    </li>
  );
}
