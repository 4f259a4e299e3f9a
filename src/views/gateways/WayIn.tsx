import { useState } from 'react';
import type { GatewayChoices } from '../../core/gateways/choices.ts';
import type { HookCall, HookInPage } from '../../core/gateways/hookIn.ts';
import { list } from '../../core/words.ts';
import { momentWords, shortDate, timeWords } from '../../core/timing/words.ts';
import { request } from '../../ui/api.ts';
import { CopyText } from '../../ui/CopyText.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { HookInDialog } from './HookInDialog.tsx';
import { useActs } from '../../ui/useActs.ts';
import { WayDialogs, type OpenOver } from './WayDialogs.tsx';

/** A way in: its address and how it is used, and what became of the last calls. */
export default function WayIn({
  first,
  choices,
  zone,
  nowMs,
}: {
  first: HookInPage;
  choices: GatewayChoices;
  zone: string;
  nowMs: number;
}) {
  const { id } = first;
  const path = `/api/gateways/in/${id}` as const;
  const page = useServer(path, { first, topics: [`hook-in:${id}`] }).data ?? first;
  const [open, setOpen] = useState<OpenOver>(null);
  const { busy, error, act } = useActs();
  const awake = useAwake();
  const turn = (on: boolean): Promise<unknown> =>
    request('PUT', `${path}/state`, { on }).then(async () => {
      await refetch(path);
      await done(on ? 'It is open again.' : 'It is switched off.', () => turn(!on));
    });
  return (
    <>
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="mr-auto" dir="auto">
          {page.hook.name}
        </h1>
        <button type="button" className="btn btn-outline" disabled={!awake} onClick={() => setOpen('change')}>
          Change
        </button>
        <button
          type="button"
          className="btn btn-outline"
          disabled={!awake || busy}
          onClick={act(() => turn(!page.on))}
        >
          {page.on ? 'Switch it off' : 'Switch it on'}
        </button>
        <button type="button" className="btn btn-ghost" disabled={!awake} onClick={() => setOpen('renew')}>
          New secret
        </button>
        <button type="button" className="btn btn-ghost" disabled={!awake} onClick={() => setOpen('delete')}>
          Delete
        </button>
      </div>
      <p className="mt-2 text-lg" dir="auto">
        {page.sentence}
      </p>
      <p className="text-sm text-quiet" dir="auto">
        Looked after by {page.owner}, with whose rights it posts. {page.on ? '' : 'It is switched off.'}
      </p>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <HowTo page={page} />
      <h2 className="mt-8 mb-2">Last calls</h2>
      {page.calls.length === 0 ? (
        <p className="text-quiet">Nothing has come yet. Send it something with the lines above.</p>
      ) : (
        <ul className="ledger">
          {page.calls.map((call) => (
            <Call key={call.id} call={call} zone={zone} nowMs={nowMs} />
          ))}
        </ul>
      )}
      <WayDialogs
        open={open}
        path={path}
        name={page.hook.name}
        change={<HookInDialog given={page} choices={choices} onClose={() => setOpen(null)} />}
        renews="Calls with the one before are refused from that moment on."
        secretWords="From now on the outside system uses this one."
        deletes="Its address takes nothing any more, and the account of its calls goes with it. What came by it stays where it is."
        onClose={() => setOpen(null)}
      />
    </>
  );
}

/** What a first message looks like, as this way in reads it. */
function sampleOf({ hook }: HookInPage): unknown {
  const put = (into: Record<string, unknown>, pointer: string, value: unknown): void => {
    const names = pointer
      .split('/')
      .slice(1)
      .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
    const last = names.pop();
    if (last === undefined) return;
    let at = into;
    for (const name of names) at = (at[name] ??= {}) as Record<string, unknown>;
    at[last] = value;
  };
  if (hook.target.kind !== 'automations' && hook.mapping === null)
    return {
      id: 'reading-1',
      title: 'Quillan: compressor two is off',
      text: 'Compressor one carries the **load**.',
      fields: [{ label: 'Vault', value: 'Quillan' }],
    };
  const sample: Record<string, unknown> = { id: 'message-1' };
  if (hook.mapping) {
    put(sample, hook.mapping.title, 'Compressor two is off');
    put(sample, hook.mapping.text, 'Compressor one carries the load.');
  }
  const values = { number: 2.5, date: '2026-12-31', moment: '2026-12-31T09:00Z', 'yes or no': 'yes' };
  for (const { pointer, kind, name } of hook.fields)
    put(sample, pointer, kind in values ? values[kind as keyof typeof values] : `some ${name}`);
  return sample;
}

/** From whom mail is taken at its mail address. */
function mailWords({ mail, target }: HookInPage['hook']): string {
  const from = [
    ...(mail?.members === true && target.kind === 'board' ? ['whoever may post on the board'] : []),
    ...(mail?.from ?? []).map((each) => (each.startsWith('@') ? `anybody at ${each.slice(1)}` : each)),
  ];
  return `Its mail address, for mail from ${list(from, 'or')}:`;
}

function HowTo({ page }: { page: HookInPage }) {
  const body = JSON.stringify(sampleOf(page)).replaceAll("'", '’');
  const line = `curl '${page.address}' \\\n  -H 'authorization: Bearer SECRET' \\\n  -H 'content-type: application/json' \\\n  -d '${body}'`;
  return (
    <section className="mt-6 flex flex-col gap-3" aria-labelledby="how">
      <h2 id="how">How it is used</h2>
      <div>
        <p className="mb-1">Its address:</p>
        <CopyText text={page.address} label="Its address" />
      </div>
      {page.mailAddress === null ? null : (
        <div>
          <p className="mb-1">{mailWords(page.hook)}</p>
          <CopyText text={page.mailAddress} label="Its mail address" />
        </div>
      )}
      <div>
        <p className="mb-1">To try it, with its secret in the place of SECRET:</p>
        <CopyText text={line} label="A line to try it" />
      </div>
      <p className="text-quiet">
        It is answered with the address of what it became, or by field with what was wrong. The same id twice
        is one message. Instead of sending the secret, a system can sign by Standard Webhooks; CloudEvents 1.0
        are read too.
      </p>
    </section>
  );
}

const OUTCOME_TONES = { taken: 'text-success', repeated: 'text-quiet', refused: 'text-error' } as const;

function Call({ call, zone, nowMs }: { call: HookCall; zone: string; nowMs: number }) {
  const [open, setOpen] = useState(false);
  return (
    <li>
      <span className="margin figure text-sm" title={momentWords(call.atMs, zone, nowMs)}>
        {shortDate(call.atMs, zone)} {timeWords(call.atMs, zone)}
      </span>
      <span className="min-w-0">
        <button
          type="button"
          className="min-h-9 text-left font-semibold break-all"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {call.messageId === '' ? 'A call without an id' : call.messageId}
        </button>
        {call.reason === null ? null : (
          <span className="block text-sm text-error" dir="auto">
            {call.reason}
          </span>
        )}
        {call.href === null ? null : (
          <a className="link block text-sm" href={call.href}>
            What it became
          </a>
        )}
        {open ? (
          <pre className="mt-1 bg-base-200 p-2 text-sm break-words whitespace-pre-wrap">
            {call.body === '' ? 'Nothing of it was kept.' : call.body}
          </pre>
        ) : null}
      </span>
      <span className={`state text-sm font-semibold ${OUTCOME_TONES[call.outcome]}`}>
        {call.outcome} <span className="figure">{call.status}</span>
      </span>
    </li>
  );
}
