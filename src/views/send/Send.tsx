import { useState } from 'react';
import { askingKind } from '../../core/asks/askWords.ts';
import { tallyWords } from '../../core/asks/roll.ts';
import type { SendPage } from '../../core/sends/send.ts';
import { momentWords, timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Corrected } from '../../ui/Corrected.tsx';
import { EventLine } from '../../ui/EventLine.tsx';
import { FillLine } from '../../ui/FillLine.tsx';
import { ImportanceWord } from '../../ui/Importance.tsx';
import { Matter, MatterButton } from '../../ui/Matter.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { StateMark } from '../../ui/StateMark.tsx';
import { TakeOut } from '../../ui/TakeOut.tsx';
import { useActs } from '../../ui/useActs.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';
import { useNow } from '../../ui/useNow.ts';
import { Withdrawn } from '../../ui/Withdrawn.tsx';
import { Acts, WayBack } from './Acts.tsx';
import { After } from './After.tsx';
import { Coming } from './Coming.tsx';
import { Outside } from './Outside.tsx';
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
  const [unseen, setUnseen] = useState<string>();
  const awake = useAwake();
  const now = useNow(serverNowMs, 250);
  const [stamp, setStamp] = useState(0);
  const { row } = page;
  const id = row.occurrenceId;

  const refresh = async (): Promise<void> => {
    try {
      setPage(await request('GET', `/api/sends/${id}`));
      setStamp((n) => n + 1);
      setUnseen(undefined);
    } catch (problem) {
      setUnseen(wordsOf(problem));
    }
  };
  const { busy, error = unseen, act } = useActs(refresh);
  useLive([`occurrence:${id}`], () => void refresh());
  const retry = act(async () => {
    await request('POST', `/api/sends/${id}/retry`);
    await refresh();
  });

  const failed = page.counts
    .filter((each) => each.method === 'mail' && each.state === 'failed')
    .reduce((sum, each) => sum + each.n, 0);
  // What goes to outside places alone is read by nobody here.
  const readHere = page.posts.length > 0 || page.counts.some((each) => each.method !== 'outside');
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
      {row.withdrawn ? (
        <div className="mt-3">
          <Withdrawn withdrawn={row.withdrawn} zone={zone} nowMs={now} />
        </div>
      ) : null}
      {row.kind === 'test' ? null : <Acts page={page} zone={zone} nowMs={now} onChanged={refresh} />}
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
      <WayBack page={page} zone={zone} nowMs={now} onChanged={refresh} />
      {row.recurs && row.recurs.state !== 'ended' ? <Coming row={row} zone={zone} nowMs={now} /> : null}
      {page.buckets.length > 1 ? <Zones buckets={page.buckets} zone={zone} /> : null}
      {(row.state === 'sent' || row.state === 'going out') && readHere ? (
        <After occurrenceId={id} stamp={stamp} zone={zone} />
      ) : null}
      {page.posts.length > 0 ? (
        <section className="my-6 max-w-3xl" aria-labelledby="places">
          <h2 id="places">Where it stands</h2>
          <ul>
            {page.posts.map((post) => (
              <li key={post.id} className="border-t border-base-300">
                <a className="link-quiet inline-block py-2" href={`/posts/${post.id}`}>
                  {post.board}
                  {post.parts > 1 ? `, part ${post.part} of ${post.parts}` : ''}
                </a>
                {post.state === 'up' ? '' : ` (${post.state})`}
              </li>
            ))}
          </ul>
        </section>
      ) : null}
      <Outside places={page.outside} zone={zone} nowMs={now} busy={busy || !awake} onRetry={retry} />
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
              <button type="button" className="btn btn-outline" disabled={busy || !awake} onClick={retry}>
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
        <p className="mb-2 text-sm text-quiet">{page.byline || row.author}</p>
        <Matter html={page.html} />
        {page.event ? <EventLine event={page.event} zone={zone} nowMs={now} /> : null}
        <MatterButton button={page.button} />
        <TakeOut path={`/api/sends/${id}/text`} words="Take it out:" />
      </section>
    </>
  );
}
