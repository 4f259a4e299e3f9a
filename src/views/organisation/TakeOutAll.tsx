import { useState } from 'react';
import type { Takeout } from '../../core/organisation/takeout.ts';
import { momentWords } from '../../core/timing/words.ts';
import { bytesWords } from '../../core/words.ts';
import { request } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { useActs } from '../../ui/useActs.ts';
import { useAwake } from '../../ui/useAwake.ts';

const PATH = '/api/organisation/takeouts';
const EVERY_MS = 1_000;

/** Takes the whole organisation out: begun here, made by the server whoever looks, fetched when it is ready. */
export default function TakeOutAll({
  first,
  zone,
  nowMs,
}: {
  first: Takeout | null;
  zone: string;
  nowMs: number;
}) {
  const awake = useAwake();
  const [deleting, setDeleting] = useState<Takeout>();
  const { data } = useServer(PATH, {
    first: { takeout: first },
    everyMs: (found) => (found?.takeout?.state === 'under way' ? EVERY_MS : false),
  });
  const { busy, error, act } = useActs(() => refetch(PATH));
  const takeout = data?.takeout ?? null;
  const begin = act(async () => {
    await request('POST', PATH);
    await refetch(PATH);
  });
  const drop = async (id: number): Promise<void> => {
    await request('DELETE', `${PATH}/${id}`);
    await refetch(PATH);
  };
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap gap-3">
        {takeout?.state === 'ready' ? (
          <a className="btn btn-primary" href={`${PATH}/${takeout.id}/file`} download>
            Save it ({bytesWords(takeout.bytes)})
          </a>
        ) : null}
        {takeout?.state === 'under way' ? (
          <button type="button" className="btn btn-outline" onClick={act(() => drop(takeout.id))}>
            Stop it
          </button>
        ) : (
          <button type="button" className="btn btn-outline" disabled={!awake || busy} onClick={begin}>
            {takeout?.state === 'ready' ? 'Take it out anew' : 'Take all of it out'}
          </button>
        )}
        {takeout?.state === 'ready' ? (
          <button type="button" className="btn btn-ghost" onClick={() => setDeleting(takeout)}>
            Delete it here
          </button>
        ) : null}
      </div>
      <div role="status">
        {takeout?.state === 'under way' ? (
          <>
            <progress
              className="progress w-full max-w-md progress-primary"
              value={takeout.percent}
              max={100}
              aria-label="How much of it is read"
            />
            <p className="text-sm text-quiet">
              {takeout.percent} % read, {bytesWords(takeout.bytes)} so far. Begun by {takeout.by}; it goes on
              if you leave this page.
            </p>
          </>
        ) : null}
        {takeout?.state === 'ready' && takeout.untilMs !== null ? (
          <p className="text-sm text-quiet">
            Taken out by {takeout.by}, as of {momentWords(takeout.begunMs, zone, nowMs)}. It lies here until{' '}
            {momentWords(takeout.untilMs, zone, nowMs)}.
          </p>
        ) : null}
      </div>
      {takeout?.state === 'failed' ? (
        <Notice tone="error">It was not taken out: {takeout.why ?? ''} Begin it again.</Notice>
      ) : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {deleting ? (
        <Confirm
          title="Delete the archive here?"
          detail="Whoever has saved it keeps it. The organisation stays as it is."
          button="Delete it"
          onConfirm={() => drop(deleting.id)}
          onClose={() => setDeleting(undefined)}
        />
      ) : null}
    </div>
  );
}
