import { useState } from 'react';
import { LATE_MS } from '../../core/delivery/lateness.ts';
import { tallyWords } from '../../core/asks/roll.ts';
import type { DeliveryCount, SendPage } from '../../core/sends/send.ts';
import { momentWords, spanWords, timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { ask, wordsOf } from '../../ui/api.ts';
import { FillLine } from '../../ui/FillLine.tsx';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { Matter, MatterButton } from '../../ui/Matter.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { StateMark } from '../../ui/StateMark.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';
import { useNow } from '../../ui/useNow.ts';

const METHOD_WORDS = { inbox: 'Inbox', mail: 'Mail' } as const;

function Method({ method, counts }: { method: 'inbox' | 'mail'; counts: DeliveryCount[] }) {
  const of = (...states: string[]): number =>
    counts
      .filter((row) => row.method === method && states.includes(row.state))
      .reduce((sum, row) => sum + row.n, 0);
  const mine = counts.filter((row) => row.method === method);
  if (mine.length === 0) return null;
  const worst = Math.max(0, ...mine.map((row) => row.worstLateMs ?? 0));
  const late = mine.reduce((sum, row) => sum + row.late, 0);
  return (
    <tr className="border-t border-base-300">
      <th scope="row" className="py-2 pr-4 text-left font-normal">
        {METHOD_WORDS[method]}
      </th>
      <td className="figure py-2 pr-4 text-right">{of('delivered').toLocaleString('en-GB')}</td>
      <td className="figure py-2 pr-4 text-right">{of('waiting', 'sending').toLocaleString('en-GB')}</td>
      <td className={`figure py-2 pr-4 text-right ${of('failed') > 0 ? 'text-error' : ''}`}>
        {of('failed').toLocaleString('en-GB')}
      </td>
      <td className="py-2 text-right">
        {of('delivered') === 0
          ? ''
          : late === 0
            ? `all within ${spanWords(LATE_MS)}`
            : `${late.toLocaleString('en-GB')} later than ${spanWords(LATE_MS)}, worst ${spanWords(worst)}`}
      </td>
    </tr>
  );
}

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
  const { row } = page;
  const id = row.occurrenceId;

  const refresh = async (): Promise<void> => {
    try {
      setPage(await ask<SendPage>('GET', `/api/sends/${id}`));
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
      const { announcementId } = await ask<{ announcementId: number }>('POST', `/api/sends/${id}/take-back`);
      location.assign(`/write/${announcementId}`);
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
        Planned by {row.author}. Due {momentWords(row.dueMs, zone, now)} your time,{' '}
        {timeWords(row.dueMs, 'UTC', true)} UTC.
      </p>
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
          <Notice tone="error">It did not go out. {row.failure}</Notice>
        </div>
      )}
      {row.state === 'scheduled' ? (
        <div className="my-6 flex flex-wrap items-center gap-4 border border-base-300 bg-base-100 p-4">
          <p className="text-lg" aria-live={left < 60_000 ? 'off' : 'polite'}>
            {left > 60_000
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
            Take it back
          </button>
          <p className="text-quiet">Taken back, it is a draft again and nobody has got it.</p>
        </div>
      ) : null}
      {row.state === 'recalled' ? (
        <p className="my-6">
          It was taken back before it went; nobody got it.{' '}
          <a className="link-quiet" href={`/write/${row.announcementId}`}>
            Open the draft
          </a>
        </p>
      ) : null}
      {page.counts.length > 0 ? (
        <section className="my-6" aria-labelledby="reached">
          <h2 id="reached">Reached</h2>
          <div className="overflow-x-auto">
            <table className="mt-2 w-full max-w-3xl border-collapse border-b border-base-300">
              <thead>
                <tr className="text-sm text-quiet">
                  <th scope="col" className="py-1 pr-4 text-left font-normal">
                    By
                  </th>
                  <th scope="col" className="py-1 pr-4 text-right font-normal">
                    delivered
                  </th>
                  <th scope="col" className="py-1 pr-4 text-right font-normal">
                    waiting
                  </th>
                  <th scope="col" className="py-1 pr-4 text-right font-normal">
                    failed
                  </th>
                  <th scope="col" className="py-1 text-right font-normal">
                    on time
                  </th>
                </tr>
              </thead>
              <tbody>
                <Method method="inbox" counts={page.counts} />
                <Method method="mail" counts={page.counts} />
              </tbody>
            </table>
          </div>
        </section>
      ) : null}
      {row.roll && row.roll.asked > 0 ? (
        <section className="my-6 max-w-3xl" aria-labelledby="asked">
          <h2 id="asked" className="mb-2">
            Answers
          </h2>
          <FillLine tally={row.roll} />
          <p className="mt-1">
            <a className="link-quiet" href={`/answers/${id}`}>
              {tallyWords(row.roll)}
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
        <MatterButton button={page.button} />
      </section>
    </>
  );
}
