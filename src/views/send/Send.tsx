import type { SendPage } from '../../core/sends/send.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Corrected } from '../../ui/Corrected.tsx';
import { EventLine } from '../../ui/EventLine.tsx';
import { Matter, MatterButton } from '../../ui/Matter.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useServer } from '../../ui/server.ts';
import { TakeOut } from '../../ui/TakeOut.tsx';
import { useActs } from '../../ui/useActs.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { useNow } from '../../ui/useNow.ts';
import { Withdrawn } from '../../ui/Withdrawn.tsx';
import { Acts, WayBack } from './Acts.tsx';
import { After } from './After.tsx';
import { Coming } from './Coming.tsx';
import { Outside } from './Outside.tsx';
import { Reached } from './Reached.tsx';
import { Answers, Facts, Stands, Troubles } from './sendParts.tsx';
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
  const id = first.row.occurrenceId;
  const path = `/api/sends/${id}` as const;
  const query = useServer(path, { first, topics: [`occurrence:${id}`] });
  const page = query.data ?? first;
  const awake = useAwake();
  const now = useNow(serverNowMs, 250);
  const { row } = page;
  // What became of it is counted anew each time the send is read again.
  const refresh = async (): Promise<void> => {
    await query.refetch();
  };
  const unseen = query.error ? wordsOf(query.error) : undefined;
  const { busy, error = unseen, act } = useActs(refresh);
  const retry = act(async () => {
    await request('POST', `/api/sends/${id}/retry`);
    await refresh();
  });

  // What goes to outside places alone is read by nobody here.
  const readHere = page.posts.length > 0 || page.counts.some((each) => each.method !== 'outside');
  return (
    <>
      <Facts row={row} zone={zone} now={now} />
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
        <After occurrenceId={id} stamp={query.dataUpdatedAt} zone={zone} />
      ) : null}
      <Stands posts={page.posts} />
      <Outside places={page.outside} zone={zone} nowMs={now} busy={busy || !awake} onRetry={retry} />
      {page.counts.length > 0 ? <Reached counts={page.counts} /> : null}
      <Answers row={row} />
      <Troubles page={page} zone={zone} busy={busy || !awake} onRetry={retry} />
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
