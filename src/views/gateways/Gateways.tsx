import { useState } from 'react';
import type { GatewayChoices } from '../../core/gateways/choices.ts';
import type { HookLine } from '../../core/gateways/hookIn.ts';
import type { HookOutLine } from '../../core/gateways/hookOut.ts';
import { nearWords } from '../../core/timing/words.ts';
import { lazily } from '../../ui/lazily.tsx';
import { useServer } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';

const HookInDialog = lazily(() => import('./HookInDialog.tsx').then((module) => module.HookInDialog));
const HookOutDialog = lazily(() => import('./HookOutDialog.tsx').then((module) => module.HookOutDialog));

const TOPICS = ['gateways'];

/** The ways in and the ways out as two ledgers, each line a sentence, with the counts of the day and trouble on top. */
export default function Gateways({
  ins: firstIns,
  outs: firstOuts,
  choices,
  zone,
  nowMs,
}: {
  ins: HookLine[];
  /** Null for whoever only moderates boards. */
  outs: HookOutLine[] | null;
  choices: GatewayChoices;
  zone: string;
  nowMs: number;
}) {
  const ins = useServer('/api/gateways/in', { first: firstIns, topics: TOPICS }).data ?? firstIns;
  const outs =
    useServer(firstOuts ? '/api/gateways/out' : null, {
      first: firstOuts ?? undefined,
      topics: TOPICS,
    }).data ?? firstOuts;
  const [making, setMaking] = useState<'in' | 'out' | null>(null);
  const awake = useAwake();
  return (
    <>
      <h1>Gateways</h1>
      <section className="mt-4" aria-labelledby="ways-in">
        <div className="mb-2 flex flex-wrap items-center gap-3">
          <h2 id="ways-in" className="mr-auto">
            Ways in
          </h2>
          <button type="button" className="btn btn-primary" disabled={!awake} onClick={() => setMaking('in')}>
            Make a way in
          </button>
        </div>
        {ins.length === 0 ? (
          <p className="text-quiet">
            There are none yet. By a way in an outside system posts here: a loan that is complete, a door that
            stands open.
          </p>
        ) : (
          <ul className="ledger">
            {ins.map((line) => (
              <li key={line.id}>
                <span className="margin figure" title="Taken in the last day">
                  {line.taken}
                </span>
                <span>
                  <a className="link-quiet font-semibold" href={`/gateways/in/${line.id}`} dir="auto">
                    {line.name}
                  </a>
                  <span className="block" dir="auto">
                    {line.sentence}
                  </span>
                  <span className="block text-sm text-quiet" dir="auto">
                    Looked after by {line.owner}. {line.taken} taken
                    {line.refused > 0 ? ` and ${line.refused} refused` : ''} in the last day.
                    {line.lastMs === null
                      ? ' Nothing has come yet.'
                      : ` Last call ${nearWords(line.lastMs, zone, nowMs)}.`}
                  </span>
                  {line.trouble === null ? null : (
                    <span className="block text-warning">The last call was refused. {line.trouble}</span>
                  )}
                </span>
                <span className="state text-sm">
                  {line.on ? (
                    <span className="font-semibold text-success">open</span>
                  ) : (
                    <span className="text-quiet">switched off</span>
                  )}
                </span>
              </li>
            ))}
          </ul>
        )}
      </section>
      {outs ? (
        <section className="mt-8" aria-labelledby="ways-out">
          <div className="mb-2 flex flex-wrap items-center gap-3">
            <h2 id="ways-out" className="mr-auto">
              Ways out
            </h2>
            <button
              type="button"
              className="btn btn-outline"
              disabled={!awake}
              onClick={() => setMaking('out')}
            >
              Make a way out
            </button>
          </div>
          {outs.length === 0 ? (
            <p className="text-quiet">
              There are none yet. By a way out an outside system is told of what happens here.
            </p>
          ) : (
            <ul className="ledger">
              {outs.map((line) => (
                <OutLine key={line.id} line={line} zone={zone} nowMs={nowMs} />
              ))}
            </ul>
          )}
        </section>
      ) : null}
      {making === 'in' ? (
        <HookInDialog given={null} choices={choices} onClose={() => setMaking(null)} />
      ) : null}
      {making === 'out' ? (
        <HookOutDialog given={null} choices={choices} onClose={() => setMaking(null)} />
      ) : null}
    </>
  );
}

function OutLine({ line, zone, nowMs }: { line: HookOutLine; zone: string; nowMs: number }) {
  return (
    <li>
      <span className="margin figure" title="Handed over in the last day">
        {line.delivered}
      </span>
      <span>
        <a className="link-quiet font-semibold" href={`/gateways/out/${line.id}`} dir="auto">
          {line.name}
        </a>
        <span className="block" dir="auto">
          {line.sentence}
        </span>
        <span className="block text-sm text-quiet" dir="auto">
          Looked after by {line.owner}. {line.delivered} handed over
          {line.waiting > 0 ? `, ${line.waiting} waiting` : ''}
          {line.failed > 0 ? `, ${line.failed} given up` : ''} in the last day.
          {line.lastMs === null ? '' : ` Last ${nearWords(line.lastMs, zone, nowMs)}.`}
        </span>
        {line.trouble === null ? null : <span className="block text-warning">{line.trouble}</span>}
      </span>
      <span className="state text-sm">
        <OutStanding state={line.state} />
      </span>
    </li>
  );
}

export const OutStanding = ({ state }: { state: HookOutLine['state'] }) =>
  state === 'on' ? (
    <span className="font-semibold text-success">on</span>
  ) : state === 'paused' ? (
    <span className="font-semibold text-warning">paused</span>
  ) : (
    <span className="text-quiet">switched off</span>
  );
