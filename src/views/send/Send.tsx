import { useState } from 'react';
import { askingKind } from '../../core/asks/askWords.ts';
import { tallyWords } from '../../core/asks/roll.ts';
import type { SendPage } from '../../core/sends/send.ts';
import { momentWords, spanWords, timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { ask, wordsOf } from '../../ui/api.ts';
import { Corrected } from '../../ui/Corrected.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { EventLine } from '../../ui/EventLine.tsx';
import { FillLine } from '../../ui/FillLine.tsx';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { Matter, MatterButton } from '../../ui/Matter.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { StateMark } from '../../ui/StateMark.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';
import { useNow } from '../../ui/useNow.ts';
import { MoveDialog } from '../run-sheet/MoveDialog.tsx';
import { After } from './After.tsx';
import { Reached } from './Reached.tsx';
import { Zones } from './Zones.tsx';

/** One send: what it is, how far it is, whom it did not reach and why; and the way back while there is one. */
export default function Send({
  first,
  zone,
  serverNowMs,
}: {
  first: SendPage;
  zone: string;
  serverNowMs: number;
}) {
  const [page, setPage] = useState(first);
  const [error, setError] = useState<string>();
  const awake = useAwake();
  const [busy, setBusy] = useState(false);
  const now = useNow(serverNowMs, 250);
  const [moving, setMoving] = useState(false);
  const [ending, setEnding] = useState(false);
  const [stamp, setStamp] = useState(0);
  const { row } = page;
  const id = row.occurrenceId;

  const toCome = page.buckets.some((bucket) => bucket.state === 'planned');
  const waiting = page.counts
    .filter((count) => count.state === 'waiting' || count.state === 'resting')
    .reduce((sum, count) => sum + count.n, 0);

  const refresh = async (): Promise<void> => {
    try {
      setPage(await ask<SendPage>('GET', `/api/sends/${id}`));
      setStamp((n) => n + 1);
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  useLive([`occurrence:${id}`], () => void refresh());
  const act = async (work: () => Promise<void>): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      await work();
    } catch (problem) {
      setError(wordsOf(problem));
      await refresh();
    }
    setBusy(false);
  };
  const takeBack = (): Promise<void> =>
    act(async () => {
      const { announcementId } = await ask<{ announcementId: number | null }>(
        'POST',
        `/api/sends/${id}/take-back`,
      );
      if (announcementId === null) await refresh();
      else location.assign(`/write/${announcementId}`);
    });
  const step = (to: 'pause' | 'resume' | 'end'): Promise<void> =>
    act(async () => {
      await ask('POST', `/api/sends/${id}/state`, { step: to });
      setEnding(false);
      await refresh();
    });
  const open = (to: 'change' | 'correct'): Promise<void> =>
    act(async () => {
      const { announcementId } = await ask<{ announcementId: number }>('POST', `/api/sends/${id}/open`, {
        to,
      });
      location.assign(`/write/${announcementId}`);
    });
  const copy = (): Promise<void> =>
    act(async () => {
      const { id: copyId } = await ask<{ id: number }>(
        'POST',
        `/api/announcements/${row.announcementId}/copy`,
      );
      location.assign(`/write/${copyId}`);
    });
  const retry = (): Promise<void> =>
    act(async () => {
      await ask('POST', `/api/sends/${id}/retry`);
      await refresh();
    });

  const left = row.dueMs - now;
  const failed = page.counts.filter((each) => each.state === 'failed').reduce((sum, each) => sum + each.n, 0);
  return (
    <>
      <p className="mb-1 flex flex-wrap gap-x-4">
        <StateMark state={row.state} /> <ImportanceWord importance={row.importance} />
      </p>
      <h1 dir="auto">{row.title}</h1>
      <p className="mt-2 max-w-3xl text-lg">{row.sentence}</p>
      <p className="mt-1 text-quiet">
        Planned by {row.author}.{' '}
        {row.endsMs > row.dueMs
          ? `Due from ${momentWords(row.dueMs, zone, now)} to ${momentWords(row.endsMs, zone, now)} your time, by each reader’s clock.`
          : `Due ${momentWords(row.dueMs, zone, now)} your time, ${timeWords(row.dueMs, 'UTC', true)} UTC.`}
        {row.recurs
          ? ` One of what recurs${row.recurs.state === 'paused' ? ', which is paused' : row.recurs.state === 'ended' ? ', which has ended' : ''}${row.recurs.moved ? '; it was moved from its rule' : ''}.`
          : ''}
        {row.kind === 'test' ? ' A test, to its author alone.' : ''}
        {row.chases === null ? null : (
          <>
            {' '}
            A chase of{' '}
            <a className="link-quiet" href={`/answers/${row.chases}`}>
              what was asked
            </a>
            .
          </>
        )}
      </p>
      {row.correctedMs === null ? null : (
        <div className="mt-3">
          <Corrected
            corrected={{ atMs: row.correctedMs, note: row.correction ?? '' }}
            zone={zone}
            nowMs={now}
          />
        </div>
      )}
      {row.kind === 'test' ? null : (
        <div className="mt-4 flex flex-wrap gap-2">
          <button
            type="button"
            className="btn btn-outline btn-sm"
            disabled={busy || !awake}
            onClick={() => void copy()}
          >
            Copy it with its plan
          </button>
          {row.movable ? (
            <button
              type="button"
              className="btn btn-outline btn-sm"
              disabled={busy || !awake}
              onClick={() => setMoving(true)}
            >
              Move {row.recurs ? 'this one' : 'it'} to another time
            </button>
          ) : null}
          {(row.state === 'sent' || row.state === 'going out') && row.kind === 'send' ? (
            <button
              type="button"
              className="btn btn-outline btn-sm"
              disabled={busy || !awake}
              onClick={() => void open('correct')}
            >
              Correct it
            </button>
          ) : null}
          {row.recurs && row.recurs.state !== 'ended' ? (
            <>
              <button
                type="button"
                className="btn btn-outline btn-sm"
                disabled={busy || !awake}
                onClick={() => void open('change')}
              >
                Change it from the next one on
              </button>
              <button
                type="button"
                className="btn btn-outline btn-sm"
                disabled={busy || !awake}
                onClick={() => void step(row.recurs?.state === 'paused' ? 'resume' : 'pause')}
              >
                {row.recurs.state === 'paused' ? 'Let it go on' : 'Pause it'}
              </button>
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                disabled={busy || !awake}
                onClick={() => setEnding(true)}
              >
                End it
              </button>
            </>
          ) : null}
        </div>
      )}
      {moving ? (
        <MoveDialog
          row={row}
          toMs={row.dueMs}
          zone={zone}
          nowMs={now}
          onClose={() => setMoving(false)}
          onDone={() => {
            setMoving(false);
            void refresh();
          }}
        />
      ) : null}
      <Dialog
        open={ending}
        title="End it for good?"
        onClose={() => setEnding(false)}
        actions={
          <>
            <button type="button" className="btn btn-ghost" onClick={() => setEnding(false)}>
              Let it go on
            </button>
            <button type="button" className="btn btn-error" disabled={busy} onClick={() => void step('end')}>
              End it
            </button>
          </>
        }
      >
        <p>Nothing of it goes out any more. What has gone stays. It can be copied, but not begun again.</p>
      </Dialog>
      {page.clockNote === null ? null : (
        <div className="mt-3">
          <Notice tone="info">{page.clockNote}</Notice>
        </div>
      )}
      {error === undefined ? null : (
        <div className="mt-3">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
      {row.failure === null ? null : (
        <div className="mt-3">
          {row.state === 'failed' ? (
            <Notice tone="error">It did not go out. {row.failure}</Notice>
          ) : (
            <Notice tone="info">{row.failure}</Notice>
          )}
        </div>
      )}
      {row.state === 'scheduled' ? (
        <div className="my-6 flex flex-wrap items-center gap-4 border border-base-300 bg-base-100 p-4">
          <p className="text-lg" aria-live={left < 60_000 ? 'off' : 'polite'}>
            {row.recurs?.state === 'paused'
              ? 'It is paused: it does not go out unless it is let go on before.'
              : left > 60_000
                ? `Goes out in ${spanWords(left)}.`
                : left > 0
                  ? `Goes out in ${Math.ceil(left / 1000)} s.`
                  : 'Going out now.'}
          </p>
          <button
            type="button"
            className="btn btn-outline"
            disabled={busy || !awake}
            onClick={() => void takeBack()}
          >
            {row.recurs ? 'Skip this one' : 'Take it back'}
          </button>
          <p className="text-quiet">
            {row.recurs
              ? 'Skipped, nobody gets this one; the others go on.'
              : 'Taken back, it is a draft again and nobody has got it.'}
          </p>
        </div>
      ) : null}
      {row.state === 'going out' && (toCome || waiting > 0) ? (
        <div className="my-6 flex flex-wrap items-center gap-4 border border-base-300 bg-base-100 p-4">
          <p>
            {toCome ? 'It is on its way round the world.' : null}
            {waiting > 0 ? ` ${waiting.toLocaleString('en-GB')} still wait to be handed over.` : null}
          </p>
          <button
            type="button"
            className="btn btn-outline"
            disabled={busy || !awake}
            onClick={() => void takeBack()}
          >
            Take back the rest
          </button>
        </div>
      ) : null}
      {row.state === 'recalled' ? (
        <p className="my-6">
          {row.recurs
            ? 'It was skipped; nobody got this one.'
            : 'It was taken back before it went; nobody got it.'}{' '}
          {row.recurs ? null : (
            <a className="link-quiet" href={`/write/${row.announcementId}`}>
              Open the draft
            </a>
          )}
        </p>
      ) : null}
      {page.buckets.length > 1 ? <Zones buckets={page.buckets} zone={zone} /> : null}
      {row.state === 'sent' || row.state === 'going out' ? (
        <After occurrenceId={id} stamp={stamp} zone={zone} />
      ) : null}
      {page.counts.length > 0 ? <Reached counts={page.counts} /> : null}
      {row.roll && row.roll.asked > 0 ? (
        <section className="my-6 max-w-3xl" aria-labelledby="asked">
          <h2 id="asked" className="mb-2">
            Answers
          </h2>
          <FillLine tally={row.roll} />
          <p className="mt-1">
            <a className="link-quiet" href={`/answers/${id}`}>
              {tallyWords(row.roll, askingKind(row.asks))}
            </a>
          </p>
        </section>
      ) : null}
      {page.troubles.length > 0 ? (
        <section className="my-6" aria-labelledby="trouble">
          <div className="mb-2 flex flex-wrap items-center gap-4">
            <h2 id="trouble">Mail that did not get through</h2>
            {failed > 0 ? (
              <button
                type="button"
                className="btn btn-outline"
                disabled={busy || !awake}
                onClick={() => void retry()}
              >
                Try {count(failed, 'failed mail', 'failed mails')} again
              </button>
            ) : null}
          </div>
          <p className="mb-2 text-quiet">All of them have it in the inbox.</p>
          <ul className="ledger">
            {page.troubles.map((trouble) => (
              <li key={trouble.personId}>
                <span className="margin">
                  {trouble.tryMs === null ? '' : <time>{timeWords(trouble.tryMs, zone, true)}</time>}
                </span>
                <span>
                  <span dir="auto">{trouble.name}</span>{' '}
                  <span className="text-sm text-quiet">{trouble.mail}</span>
                  <span className="block text-sm text-quiet">{trouble.reason}</span>
                </span>
                <span className={`state ${trouble.state === 'failed' ? 'text-error' : 'text-warning'}`}>
                  {trouble.state === 'failed'
                    ? 'failed'
                    : `tried ${count(trouble.attempts, 'time', 'times')}, tries again`}
                </span>
              </li>
            ))}
          </ul>
        </section>
      ) : null}
      <section className="my-8 border-t border-base-300 pt-4" aria-labelledby="text">
        <h2 id="text" className="mb-3">
          What it says
        </h2>
        {page.byline === '' ? null : <p className="mb-2 text-sm text-quiet">{page.byline}</p>}
        <Matter html={page.html} />
        {page.event ? <EventLine event={page.event} zone={zone} nowMs={now} /> : null}
        <MatterButton button={page.button} />
      </section>
    </>
  );
}
