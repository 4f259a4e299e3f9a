import { useState } from 'react';
import type { GatewayChoices } from '../../core/gateways/choices.ts';
import { happenedWords, type Handover, type HookOutPage } from '../../core/gateways/hookOut.ts';
import { momentWords, nearWords, shortDate, timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { OutStanding } from './Gateways.tsx';
import { HookOutDialog } from './HookOutDialog.tsx';
import { useActs } from '../../ui/useActs.ts';
import { WayDialogs, type OpenOver } from './WayDialogs.tsx';

const DAY_MS = 86_400_000;

/** A way out: what it is told, and what became of the last events. */
export default function WayOut({
  first,
  arrived,
  choices,
  zone,
  nowMs,
}: {
  first: HookOutPage;
  /** Of a demo: the page that shows what came there. */
  arrived: string | null;
  choices: GatewayChoices;
  zone: string;
  nowMs: number;
}) {
  const { id } = first;
  const path = `/api/gateways/out/${id}` as const;
  const page = useServer(path, { first, topics: [`hook-out:${id}`] }).data ?? first;
  const [open, setOpen] = useState<OpenOver>(null);
  const { busy, error, act } = useActs();
  const awake = useAwake();
  const idle = awake && !busy;
  const turn = (on: boolean): Promise<unknown> =>
    request('PUT', `${path}/state`, { on }).then(async () => {
      await refetch(path);
      await done(on ? 'It is told again.' : 'It is switched off.', () => turn(!on));
    });
  const again = (which: { id: number } | { sinceMs: number }): Promise<unknown> =>
    request('POST', `${path}/again`, which).then(({ events }) =>
      done(`${count(events, 'event is', 'events are')} sent again.`),
    );
  return (
    <>
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="mr-auto" dir="auto">
          {page.hook.name}
        </h1>
        <button
          type="button"
          className="btn btn-primary"
          disabled={!idle || page.state !== 'on'}
          onClick={act(() => request('POST', `${path}/trial`).then(() => done('A trial is on its way.')))}
        >
          Send a trial
        </button>
        <button type="button" className="btn btn-outline" disabled={!idle} onClick={() => setOpen('change')}>
          Change
        </button>
        <button
          type="button"
          className="btn btn-outline"
          disabled={!idle}
          onClick={act(() => turn(page.state !== 'on'))}
        >
          {page.state === 'on' ? 'Switch it off' : 'Switch it on'}
        </button>
        <button type="button" className="btn btn-ghost" disabled={!idle} onClick={() => setOpen('renew')}>
          New secret
        </button>
        <button type="button" className="btn btn-ghost" disabled={!idle} onClick={() => setOpen('delete')}>
          Delete
        </button>
      </div>
      <p className="mt-2 text-lg" dir="auto">
        {page.sentence}
      </p>
      <p className="text-sm text-quiet" dir="auto">
        Looked after by {page.owner}. It is sent to <span className="break-all">{page.hook.url}</span> as{' '}
        {page.hook.place ? 'its template says' : 'CloudEvents 1.0'}, signed by Standard Webhooks.{' '}
        <OutStanding state={page.state} />
        {arrived === null ? null : (
          <>
            {' '}
            <a className="link-quiet" href={arrived}>
              See what arrived
            </a>
            .
          </>
        )}
        {page.beforeUntilMs === null
          ? ''
          : ` The secret before signs too until ${nearWords(page.beforeUntilMs, zone, nowMs)}.`}
      </p>
      {page.whyPaused === null ? null : (
        <Notice tone="warning">
          It has paused. {page.whyPaused} What happens meanwhile waits, and is handed over once it is switched
          on.
        </Notice>
      )}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <div className="mt-6 mb-2 flex flex-wrap items-center gap-3">
        <h2 className="mr-auto">{page.hook.place ? 'What was handed over' : 'Last events'}</h2>
        {page.handovers.length > 0 ? (
          <button
            type="button"
            className="btn btn-ghost"
            disabled={!idle}
            onClick={act(() => again({ sinceMs: nowMs - DAY_MS }))}
          >
            Send the last day again
          </button>
        ) : null}
      </div>
      {page.handovers.length === 0 ? (
        <p className="text-quiet">
          {page.hook.place
            ? 'No announcement has travelled there yet. Choose it under “how it travels” in Write, or send a trial.'
            : 'Nothing of what it follows has happened yet. Send a trial.'}
        </p>
      ) : (
        <ul className="ledger">
          {page.handovers.map((handover) => (
            <Line
              key={handover.id}
              handover={handover}
              zone={zone}
              nowMs={nowMs}
              onAgain={idle ? act(() => again({ id: handover.id })) : null}
            />
          ))}
        </ul>
      )}
      <WayDialogs
        open={open}
        path={path}
        name={page.hook.name}
        change={<HookOutDialog given={page} choices={choices} onClose={() => setOpen(null)} />}
        renews="For a day events are signed with both, so that the outside system can change over."
        secretWords="The outside system checks with this one from now on."
        deletes="It is told nothing any more, also not what waits for it, and the account of its events goes with it."
        onClose={() => setOpen(null)}
      />
    </>
  );
}

const STATES: Record<Handover['state'], [string, string]> = {
  waiting: ['waiting', 'text-info'],
  sending: ['on its way', 'text-info'],
  delivered: ['handed over', 'text-success'],
  failed: ['given up', 'text-error'],
  'called off': ['called off', 'text-quiet'],
};

function Line({
  handover,
  zone,
  nowMs,
  onAgain,
}: {
  handover: Handover;
  zone: string;
  nowMs: number;
  onAgain: (() => void) | null;
}) {
  const [open, setOpen] = useState(false);
  const [words, tone] = STATES[handover.state];
  const ended = handover.state === 'delivered' || handover.state === 'failed';
  return (
    <li>
      <span className="margin figure text-sm" title={momentWords(handover.madeMs, zone, nowMs)}>
        {shortDate(handover.madeMs, zone)} {timeWords(handover.madeMs, zone)}
      </span>
      <span className="min-w-0">
        <button
          type="button"
          className="min-h-9 text-left font-semibold"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          <span dir="auto">{happenedWords(handover.kind, handover.body)}</span>
        </button>
        <span className="block text-sm text-quiet">
          {handover.attempts === 0 ? 'Not tried yet.' : ''}
          {handover.attempts > 1 ? `Tried ${handover.attempts} times.` : ''}
          {handover.reason === null ? '' : ` ${handover.reason}`}
          {handover.tryMs === null ? '' : ` Again ${nearWords(handover.tryMs, zone, nowMs)}.`}
        </span>
        {open ? (
          <>
            <pre className="mt-1 bg-base-200 p-2 text-sm break-words whitespace-pre-wrap">
              {handover.sentBody ?? JSON.stringify(JSON.parse(handover.body), null, 2)}
            </pre>
            {ended && onAgain ? (
              <button type="button" className="btn btn-outline btn-sm mt-1" onClick={onAgain}>
                Send it again
              </button>
            ) : null}
          </>
        ) : null}
      </span>
      <span className={`state text-sm font-semibold ${tone}`}>
        {words} {handover.status === null ? null : <span className="figure">{handover.status}</span>}
      </span>
    </li>
  );
}
